"""How related two bars are: a figure with its reasons.

Weights say what makes people call bars the same: kick and backbeat first, then toms and time, ghosts least. They are
working assumptions.
"""

from collections.abc import Iterable
from dataclasses import dataclass

from ghoststep.music.kit import voice
from ghoststep.music.pattern import Hit, Pattern
from ghoststep.music.touch import Role

_WEIGHTS = {"kick": 1.0, "snare": 1.0, "toms": 0.8, "hat": 0.35, "cymbals": 0.35, "perc": 0.35}
_GHOST = 0.3
Place = tuple[int, str]


@dataclass(frozen=True)
class Bar:
    """A bar as what is struck in it: (place in ticks, voice) -> weight. `ticks` is its length."""

    ticks: int
    struck: tuple[tuple[Place, float], ...]

    @property
    def places(self) -> dict[Place, float]:
        return dict(self.struck)

    @property
    def core(self) -> frozenset[Place]:
        """What the bar stands on: kick, backbeats, toms."""
        return frozenset(p for p, w in self.struck if w > 0.5)


def bar_of(hits: Iterable[Hit], start: int, ticks: int) -> Bar:
    """The bar that begins at `start`, of hits that lie in it."""
    found: dict[Place, float] = {}
    for h in hits:
        if h.grace:
            continue
        group = voice(h.voice).group
        weight = _WEIGHTS[group] if h.role is not Role.GHOST or group == "kick" else _GHOST
        name = h.voice if group in ("kick", "toms", "snare") else _time(h.voice, group)
        place = (h.position_ticks - start, name)
        found[place] = max(found.get(place, 0.0), weight)
    return Bar(ticks, tuple(sorted(found.items())))


def _time(name: str, group: str) -> str:
    """Voices that are heard as one where bars are compared: all hats of the hand, all rides, all crashes."""
    if group == "hat":
        return name if name == "hat_pedal" else "hat"
    if name in ("ride", "ride_bell"):
        return "ride"
    return "crash" if group == "cymbals" else name


def distance(one: Bar, other: Bar) -> float:
    """0 for bars alike, 1 for bars that have nothing in common: what differs over all there is."""
    if one.ticks != other.ticks:
        return 1.0
    a, b = one.places, other.places
    total = sum(max(a.get(p, 0.0), b.get(p, 0.0)) for p in a.keys() | b.keys())
    apart = sum(abs(a.get(p, 0.0) - b.get(p, 0.0)) for p in a.keys() | b.keys())
    return apart / total if total else 0.0


def relation(one: Bar, other: Bar) -> tuple[float, list[str]]:
    """How related two bars are, 0 to 1, and the reasons: what they share and what not, by voice."""
    a, b = one.places, other.places
    reasons = []
    for name in sorted({p[1] for p in a.keys() | b.keys()}):
        mine, theirs = {t for t, n in a if n == name}, {t for t, n in b if n == name}
        if mine == theirs:
            reasons.append(f"{name} the same")
        else:
            reasons.append(f"{name}: {len(mine & theirs)} of {len(mine | theirs)} strokes shared")
    return 1 - distance(one, other), reasons


def nearness(one: Pattern, other: Pattern) -> tuple[float, list[str]]:
    """How related two parts are, 0 to 1, over the bars that both have, and by what voices they differ."""
    figures, reasons = [], dict[str, None]()
    for bar in range(1, min(one.bars, other.bars) + 1):
        rows = []
        for pattern in (one, other):
            start, ticks = pattern.frame.start_of(bar), pattern.frame.length_of(bar)
            rows.append(bar_of([pattern.hits[i] for i in pattern.between(start, start + ticks)], start, ticks))
        figure, why = relation(rows[0], rows[1])
        figures.append(figure)
        reasons |= {reason.replace("_", " "): None for reason in why if not reason.endswith("the same")}
    return sum(figures) / len(figures), list(reasons)
