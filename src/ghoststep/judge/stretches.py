"""What some chosen strokes are called: each stretch of them by its letters and names, with where it comes again."""

from collections.abc import Collection, Sequence

from ghoststep.judge.layers import Layer, Place, figure_words
from ghoststep.judge.line import line
from ghoststep.judge.names import Moment, named
from ghoststep.music.groove import Groove

CHOSEN = "chosen"


def stretches(groove: Groove, indices: Collection[int]) -> list[Layer]:
    """The stretches of the hits at these indices: those of two moments and more, alike ones together."""
    pattern = groove.pattern
    kept = frozenset(indices)
    left_out = frozenset(i for i in range(len(pattern.hits)) if i not in kept)
    own = line(groove.changed(pattern=pattern.with_hits(left_out, ())))
    others = {m.tick for m in line(groove)} - {m.tick for m in own}
    found: dict[tuple[Moment, ...], list[Place]] = {}
    for row in _rows(own, sorted(others), groove):
        key = tuple(m._replace(tick=m.tick - row[0].tick, accent=False) for m in row)
        found.setdefault(key, []).append(Place(row[0].tick, row[-1].tick))
    return [Layer(CHOSEN, _words(row), tuple(places), len(places)) for row, places in found.items() if len(row) > 1]


def _rows(own: Sequence[Moment], others: Sequence[int], groove: Groove) -> list[list[Moment]]:
    """Cut where a beat or more goes by in which others strike."""
    frame, out = groove.pattern.frame, list[list[Moment]]()
    k = 0
    for m in own:
        before = out[-1][-1].tick if out else 0
        while k < len(others) and others[k] < before:
            k += 1
        beat = frame.meter_at(m.tick).unit_ticks
        if out and not (m.tick - before >= beat and k < len(others) and others[k] < m.tick):
            out[-1].append(m)
        else:
            out.append([m])
    return out


def _words(row: Sequence[Moment]) -> str:
    """Its letters, with the rudiment that fills it, or those that are in it."""
    words = figure_words(row)
    if words.endswith(")"):
        return words
    inside = [n.words for n in named(row) if n.kind]
    return f"{words}, in it {', '.join(dict.fromkeys(inside))}" if inside else words
