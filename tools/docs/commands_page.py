"""docs/commands.md, made from the tables: `python -m tools.docs.commands_page` (`make docs`)."""

import argparse
from pathlib import Path

from ghoststep.cli.main import parsers
from ghoststep.session.commands import COMMANDS, MENUS
from ghoststep.session.language.verb import Verb, all_verbs, other_words

PAGE = Path(__file__).resolve().parents[2] / "docs" / "commands.md"
_HEAD = """# Commands

Made from the tables of the program by `make docs`; change those, not this. What the places are for stands in
[guide.md](guide.md).
"""
_PHRASES = """## Phrases

Said in the line that `Ctrl+K` opens, with `ghost-step edit GROOVE --do "PHRASE"`, and inside forms. A phrase is a verb
with its words; what stands in brackets may be left out. TARGET names hits: `snare ghosts bars 2-4`, `hat at every &`,
`everything`; without one a phrase is about what is chosen.
"""


def _cell(text: str) -> str:
    return text.replace("|", "\\|")


def _without_a_window() -> list[str]:
    out = ["## Without a window", ""]
    for parser in parsers()[1:]:
        about = " ".join(str(parser.description).split())
        out += [f"### {parser.prog}", "", about, "", "| | |", "|---|---|"]
        out += [
            f"| {_names(action)} | {_cell(' '.join((action.help or '').split()))} |" for action in parser._actions[1:]
        ]
        out.append("")
    return out


def _names(action: argparse.Action) -> str:
    wanted = action.metavar if isinstance(action.metavar, str) else (action.dest.upper() if action.nargs != 0 else "")
    if action.choices:
        wanted = "|".join(map(str, action.choices))
    return _cell(f"`{' '.join([*action.option_strings[:1], wanted]).strip()}`")


def _in_the_window() -> list[str]:
    out = ["## In the window", ""]
    for menu in MENUS:
        rows = [row for row in COMMANDS.values() if row.menu == menu]
        out += [f"### {menu}", "", "| what | keys | where | as a phrase |", "|---|---|---|---|"]
        for row in rows:
            keys = ", ".join(f"`{key}`" for key in row.keys)
            phrase = f"`{row.phrase}`" if row.phrase else ""
            out.append(f"| {_cell(row.text)} | {_cell(keys)} | {row.place.capitalize()} | {_cell(phrase)} |")
        out.append("")
    return out


def _verb(verb: Verb) -> list[str]:
    also = ", ".join(f"`{word}`" for word, name in other_words().items() if name == verb.name)
    return [f"- `{verb.line}`{f' (also {also})' if also else ''}: {verb.about}. For example `{verb.example}`."]


def page() -> str:
    """The whole page."""
    out = [_HEAD, *_in_the_window(), _PHRASES]
    for _, verb in sorted(all_verbs().items()):
        out += _verb(verb)
    return "\n".join([*out, "", *_without_a_window()]).rstrip() + "\n"


if __name__ == "__main__":
    PAGE.write_text(page(), encoding="utf-8")
