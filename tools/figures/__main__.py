"""Write docs/figures.md from what is asked and what was measured: `python -m tools.figures`."""

import sys
import tomllib
from collections import Counter
from dataclasses import dataclass
from pathlib import Path

from tools.figures.record import ROOT, measured

ASKED = ROOT / "docs" / "figures" / "asked.toml"
PAGE = ROOT / "docs" / "figures.md"
_HEAD = """# Figures

What holds today. This page is written by `make figures` from `docs/figures/asked.toml` (what is asked) and
`docs/figures/measured.json` (what was measured, each with its day); change those, not this. Rows marked **short** do
not reach what is asked. What was tried and did not help stands in [training.md](training.md); how the figures grew is
in the history of this file.

Machine, where a row says nothing else: {machine}. It is shared, and its speed varies by a factor of two in a day.
"""


@dataclass(frozen=True)
class Row:
    """A figure. name: as it is recorded; what: in words; short: what is not reached, and why."""

    name: str
    what: str
    asked: str
    how: str
    short: str


def page(asked: Path = ASKED) -> str:
    """The page, with whole tables that stand beside `asked.toml` at its end; a row that was never measured says so."""
    told = tomllib.loads(asked.read_text(encoding="utf-8"))
    known = measured()
    machines = Counter(row["machine"] for row in known.values())
    usual = machines.most_common(1)[0][0] if machines else "not known"
    out = [_HEAD.format(machine=usual)]
    for section in told["section"]:
        out += [f"## {section['title']}", "", section["about"].strip(), ""] if section.get("about") else [
            f"## {section['title']}", "",
        ]  # fmt: skip
        out += ["| what | asked | measured | worst | day | how |", "|---|---|---|---|---|---|"]
        out += [_line(Row(r["name"], r["what"], r.get("asked", "-"), r["how"], r.get("short", "")), known, usual)
                for r in section["row"]]  # fmt: skip
        out += ["", section["after"].strip(), ""] if section.get("after") else [""]
    whole = [part.read_text(encoding="utf-8").strip() for part in sorted(ASKED.parent.glob("*.md"))]
    return "\n".join([*out, "\n\n".join(whole)]).rstrip() + "\n"


def _line(row: Row, known: dict[str, dict[str, str]], usual: str) -> str:
    found = known.get(row.name)
    if found is None:
        return f"| {row.what} | {row.asked} | not measured yet | | | {row.how} |"
    value = found["value"] + (f" **short**: {row.short}" if row.short else "")
    where = "" if found["machine"] == usual else f" ({found['machine']})"
    return f"| {row.what} | {row.asked} | {value} | {found['worst'] or '-'} | {found['day']}{where} | {row.how} |"


if __name__ == "__main__":
    PAGE.write_text(page(), encoding="utf-8")
    sys.stdout.write(f"wrote {PAGE.relative_to(ROOT)}\n")
