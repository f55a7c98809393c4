"""The corpus of sentences: what is said, on which groove, and what must come of it in the exact language.

A row is a groove, what is said (">>" parts sentences that follow one another), and what must come of it: phrases with
";" between them, "or" between what is right either way. "~" in front: the same strokes change the same way, by whatever
amount. "?": nothing is done unasked. "!": nothing changes. ":" in front: this is asked of whoever does it.
"""

import random
from collections.abc import Iterator
from dataclasses import dataclass, replace
from pathlib import Path

from ghoststep.files.feels import use_shelf
from ghoststep.files.textgrid import read_grid
from ghoststep.music.errors import InputError
from ghoststep.music.groove import Groove
from ghoststep.session.document.document import Document
from ghoststep.session.edits.commit import opened
from ghoststep.session.language.edit_context import EditContext
from ghoststep.session.say.understanding import Understood, done, understood

use_shelf()
HERE = Path(__file__).parent
ASIDE_SEED, ASIDE_SHARE = 1107, 0.1


@dataclass(frozen=True)
class Row:
    topic: str
    groove: str
    said: tuple[str, ...]
    wanted: tuple[str, ...]


def rows(folder: Path = HERE) -> list[Row]:
    out = []
    for path in sorted(folder.glob("*.tsv")):
        for line in path.read_text().splitlines():
            if line.strip() and not line.startswith("#"):
                groove, said, wanted = line.split("\t")
                out.append(
                    Row(
                        path.stem,
                        groove,
                        tuple(s.strip() for s in said.split(">>")),
                        tuple(w.strip() for w in wanted.split(" or ")),
                    )
                )
    return out


def parted(found: list[Row]) -> tuple[list[Row], list[Row]]:
    """Those in view, and the tenth kept aside."""
    dice = random.Random(ASIDE_SEED)
    aside = set(dice.sample(range(len(found)), round(ASIDE_SHARE * len(found))))
    return [r for k, r in enumerate(found) if k not in aside], [r for k, r in enumerate(found) if k in aside]


def context_of(groove: str) -> EditContext:
    return EditContext(opened(Document(groove, read_grid(HERE / "grooves" / f"{groove}.grid.txt"))))


def said(row: Row) -> tuple[EditContext, EditContext, Understood]:
    """Where it began, where it ends when the likeliest is taken, and how the last sentence was understood."""
    start = context = context_of(row.groove)
    before: list[Understood] = []
    found = Understood("")
    for text in row.said:
        found = understood(context, text, before)
        if found.tried:
            context = found.tried[0].context
            before.append(found)
    return start, context, found


def verdict(row: Row) -> str:
    """ "right", "asked" (it was, or refused, where it should have been done), or "wrong": done, and something else."""
    start, after, found = said(row)
    acted = found.sure and (after.document != start.document or bool(after.asks) or _tells(found))
    for wanted in row.wanted:
        if wanted == "?" and (not acted or not found.tried):
            return "right"
        if wanted == "!" and (not acted or (after.document.groove == start.document.groove and not after.asks)):
            return "right"
        if wanted.startswith(":") and acted and asks_the_same(start, after, found, wanted[1:]):
            return "right"
        if wanted[0] not in "?!:" and acted and comes_to(start, after, wanted):
            return "right"
    return "wrong" if acted else "asked"


def asks_the_same(start: EditContext, after: EditContext, found: Understood, wanted: str) -> bool:
    if found.tried[0].phrase.split()[0] != wanted.split()[0]:
        return False
    _, context = done(start, [wanted])
    return context.asks == after.asks


def _tells(found: Understood) -> bool:
    return bool(found.tried) and found.tried[0].phrase.split()[0] in ("describe", "check", "letters")


def comes_to(start: EditContext, after: EditContext, wanted: str) -> bool:
    """Whether a groove is what phrases make of it."""
    loose = wanted.startswith("~")
    context = start
    for phrase in wanted.lstrip("~").split(";"):
        try:
            _, context = done(context, [phrase.strip()])
        except InputError:
            return False
    if loose:
        return changes(start.document.groove, after.document.groove) == changes(
            start.document.groove, context.document.groove
        )
    return (
        _plain(after.document.groove) == _plain(context.document.groove)
        and after.document.judged == context.document.judged
    )


def _plain(groove: Groove) -> Groove:
    hits = tuple(replace(h, key=0, origin=None) for h in groove.pattern.hits)
    return groove.changed(hits=hits, name="")


def changes(before: Groove, after: Groove) -> set[tuple[object, ...]]:
    """Every difference by its direction."""
    out: set[tuple[object, ...]] = set()
    was = {h.key: h for h in before.pattern.hits}
    now = {h.key: h for h in after.pattern.hits}
    for key in was.keys() | now.keys():
        a, b = was.get(key), now.get(key)
        if a is None or b is None:
            h = a or b
            assert h is not None
            out.add(("gone" if b is None else "new", h.position_ticks, h.voice, h.role))
            continue
        if a == b:
            continue
        out.add(
            (
                key,
                _sign(b.velocity - a.velocity),
                _sign(b.offset_ms - a.offset_ms),
                a.voice != b.voice,
                a.stroke != b.stroke,
            )
        )
    out.add(("tempo", _sign(after.tempo.main_bpm - before.tempo.main_bpm)))
    f, g = before.feel, after.feel
    out.add(("swing", _sign(g.swing.ratio - f.swing.ratio), g.swing.unit if g.swing.ratio > 0.5 else 0))
    out.add(("loose", _sign(g.loose_ms - f.loose_ms), _sign(g.wander.velocity - f.wander.velocity)))
    for name in f.lean_ms.keys() | g.lean_ms.keys():
        out.add(("lean", name, _sign(g.lean_of(name) - f.lean_of(name))))
    return out


def _sign(value: float) -> int:
    return (value > 1e-9) - (value < -1e-9)


def tried(found: list[Row]) -> Iterator[tuple[Row, str]]:
    for row in found:
        yield row, verdict(row)
