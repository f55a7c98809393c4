"""The man page, made from what the command line takes: `python -m tools.packaging.man_page [OUT]`."""

import argparse
import sys
from pathlib import Path

from ghoststep import __version__
from ghoststep.cli.main import parsers

PAGE = Path(__file__).resolve().parents[2] / "share" / "man" / "man1" / "ghost-step.1"


def _plain(text: str) -> str:
    """Text as roff takes it literally."""
    escaped = text.replace("\\", "\\e").replace("-", "\\-")
    return "\n".join(f"\\&{line}" if line.startswith((".", "'")) else line for line in escaped.splitlines())


def _option(action: argparse.Action) -> str:
    """One option with what it takes and what it is for."""
    wanted = action.metavar if isinstance(action.metavar, str) else (action.dest.upper() if action.nargs != 0 else "")
    if action.choices:
        wanted = "|".join(map(str, action.choices))
    names = ", ".join(f"\\fB{_plain(name)}\\fR" for name in action.option_strings)
    head = f"{names} \\fI{_plain(wanted)}\\fR" if names and wanted else names or f"\\fI{_plain(wanted)}\\fR"
    return f".TP\n{head}\n{_plain(action.help or 'Says what it takes, and ends.')}\n"


def man_page() -> str:
    """The whole page in roff."""
    window, *commands = parsers()
    out = [
        f'.TH GHOST\\-STEP 1 "" "Ghost Step {__version__}" "User commands"\n',
        f".SH NAME\nghost\\-step \\- {_plain(str(window.description).rstrip('.').lower())}\n",
        ".SH SYNOPSIS\n.B ghost\\-step\n[\\fIFILE\\fR]\n.br\n.B ghost\\-step\n\\fICOMMAND\\fR ...\n",
        ".SH DESCRIPTION\nWithout a command the window opens, with the file that is named.\n",
        "".join(_option(a) for a in window._actions),
    ]
    for parser in commands:
        about = " ".join(str(parser.description).split())
        out.append(f".SH {_plain(parser.prog.upper())}\n{_plain(about)}\n")
        out += [_option(a) for a in parser._actions if a.option_strings != ["-h", "--help"]]
    ends = "0 where all was done, 2 where something was wrong with what was given, 1 for a fault of ours."
    out.append(f".SH EXIT STATUS\n{ends}\n")
    return "".join(out)


def main() -> None:
    """Write the page."""
    target = Path(sys.argv[1]) if len(sys.argv) > 1 else PAGE
    target.write_text(man_page(), "utf-8")


if __name__ == "__main__":
    main()
