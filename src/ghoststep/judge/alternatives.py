"""Other stickings for the same part: the easiest, and what other players would do, each with what it costs."""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from itertools import pairwise

from ghoststep.judge.hands import PLAIN, Taste, along, graces, sticking
from ghoststep.judge.kit_setup import STANDARD, WAYS, KitSetup
from ghoststep.judge.rudiments import Rudiment, rudiments
from ghoststep.judge.strokes import Cut, Stroke, windows
from ghoststep.music.groove import Groove
from ghoststep.music.kit import OTHER_HAND

_MOST = 3
_LONGEST = max(len(r.letters) for r in rudiments())
_ROLLED_S = 0.1  # strokes nearer than this may be rolled in doubles
_GAP_UNITS = 12.0  # a figure's strokes are not further apart than so many of its units


@dataclass(frozen=True)
class Alternative:
    """limbs: index of a hit -> limb; about: what it is, in words; cost: what it asks, the easiest has the least."""

    limbs: dict[int, str]
    about: str
    cost: float


def alternatives(
    groove: Groove, way: str = WAYS[0], *, setup: KitSetup = STANDARD, keep: bool = False, most: int = _MOST
) -> list[Alternative]:
    """The easiest sticking first, then up to so many others that differ from it and from each other.

    Raises
    ------
    InputError
        Where there is no such way to play.
    """
    best = sticking(groove, way, setup=setup, keep=keep)
    cuts = list(windows(groove))
    first = next((best[i] for cut in cuts for i in cut.indices if best[i] in OTHER_HAND), "R")
    other = "left" if first == "R" else "right"
    ways = [
        ("as rudiments", as_rudiments(cuts, best, keep=keep)),
        ("as other rudiments", as_rudiments(cuts, best, keep=keep, reading=1)),
        (
            f"starts with the {other}",
            sticking(groove, way, setup=setup, keep=keep, taste=Taste(first=OTHER_HAND[first])),
        ),
        ("one hand keeps the time", sticking(groove, way, setup=setup, keep=keep, taste=Taste(time_shared_s=0.0))),
        ("both hands share the time", sticking(groove, way, setup=setup, keep=keep, taste=Taste(time_shared_s=0.3))),
        ("doubles rather than singles", sticking(groove, way, setup=setup, keep=keep, taste=Taste(repeated=0.0))),
    ]
    out = [Alternative(best, "the easiest", cost_of(groove, cuts, best, way, setup))]
    for about, limbs in ways:
        if limbs is not None and all(limbs != known.limbs for known in out):
            out.append(Alternative(limbs, about, cost_of(groove, cuts, limbs, way, setup)))
        if len(out) == most:
            break
    return out


def cost_of(groove: Groove, cuts: list[Cut], limbs: Mapping[int, str], way: str, setup: KitSetup) -> float:
    """What a sticking asks of the hands, in the unit of `judge.hands`."""
    hits = groove.pattern.hits
    given = groove.changed(
        pattern=groove.pattern.with_hits(limbs.keys(), [replace(hits[i], limb=x) for i, x in limbs.items()])
    )
    return round(sum(a.cost for a in along(list(windows(given)), way, setup, PLAIN, keep=True)), 3)


def as_rudiments(
    cuts: list[Cut], best: Mapping[int, str], *, keep: bool = False, reading: int = 0
) -> dict[int, str] | None:
    """A sticking in which runs of the hands whose rhythm, accents and grace notes are a rudiment's are played as it.

    Rhythm and accents may be those of several: `reading` says which of them, the commonest first. None where there is
    no such run.
    """
    line: list[tuple[int, int, Stroke]] = []  # tick, index, stroke: moments where one hand plays alone
    for cut in cuts:
        rows = [(cut.start_tick + s.tick, i, s) for i, s in zip(cut.indices, cut.window.strokes, strict=False)]
        line += [row for row in rows if not row[2].foot]
    ticks = [t for t, _, _ in line]
    out, at, last = dict(best), 0, ""
    before: Rudiment | None = None
    found = False
    while at < len(line):
        figure = _figure(line, ticks, at, last, reading, before)
        if figure is None or (keep and any(s.given for _, _, s in line[at : at + len(figure.letters)])):
            last, before = out[line[at][1]], None
            at += 1
            continue
        for (_, i, _), letter in zip(line[at:], figure.letters, strict=False):
            out[i] = letter
        at, last, before, found = at + len(figure.letters), figure.letters[-1], figure, True
    return out if found else None


def _figure(
    line: list[tuple[int, int, Stroke]],
    ticks: list[int],
    at: int,
    last: str,
    reading: int,
    before: Rudiment | None,
) -> Rudiment | None:
    """The longest rudiment of the hands that is struck from here on, led by the hand that did not strike last.

    A figure that has come round to where it began (both its halves, left after right) comes again as it is.
    """
    rest, moments = line[at : at + _LONGEST + 1], ticks[at : at + _LONGEST + 1]
    if len(rest) < 2:
        return None
    fitting = [r for r in rudiments() if "K" not in r.letters and _fits(r, rest, moments)]
    if before is not None and before in fitting and _comes_round(before):
        return before
    if not fitting:
        doubles = next(r for r in rudiments() if r.letters == "RRLLRRLL")
        return doubles if _fast_and_plain(rest, moments) else None
    size = len(fitting[0].letters)
    names = list(dict.fromkeys(r.name for r in fitting if len(r.letters) == size))
    name = before.name if before is not None and before.name in names else names[min(reading, len(names) - 1)]
    best = [r for r in fitting if len(r.letters) == size and r.name == name]
    lead = OTHER_HAND.get(last, "R")
    return next((r for r in best if r.letters[0] == lead), best[0])


def _comes_round(r: Rudiment) -> bool:
    """Whether a figure is two halves, the second the first again or in the other hand."""
    half = len(r.letters) // 2
    one, other = r.letters[:half], r.letters[half:]
    return other in (one, "".join(OTHER_HAND.get(x, x) for x in one)) and r.graces[:half] == r.graces[half:]


def _fast_and_plain(line: list[tuple[int, int, Stroke]], ticks: list[int]) -> bool:
    """Eight even strokes on one drum, fast and without an accent: what is rolled in doubles."""
    row = [s for _, _, s in line[:8]]
    if len(row) < 8 or any(s.role == "accent" or s.graces or s.voice != row[0].voice for s in row):
        return False
    even = len({b - a for a, b in pairwise(ticks[:8])}) == 1
    return even and row[1].second - row[0].second <= _ROLLED_S


def _fits(r: Rudiment, line: list[tuple[int, int, Stroke]], ticks: list[int]) -> bool:
    """Whether rhythm, accents and grace notes are a rudiment's; it has to have an accent or a grace to be told by."""
    size = len(r.letters)
    if len(line) < size or not (any(r.accents) or any(r.graces)):
        return False
    unit = (ticks[1] - ticks[0]) / (r.starts[1] - r.starts[0])
    if unit <= 0 or any(t - ticks[0] != s * unit for t, s in zip(ticks, r.starts, strict=False)):
        return False
    if len(ticks) > size and not r.landing * unit <= ticks[size] - ticks[size - 1] <= _GAP_UNITS * unit * r.landing:
        return False
    row = [s for _, _, s in line[:size]]
    return [s.role == "accent" for s in row] == list(r.accents) and [s.graces for s in row] == list(r.graces)


def applied(groove: Groove, limbs: Mapping[int, str]) -> Groove:
    """The groove with these limbs written into its hits."""
    hits = groove.pattern.hits
    new = {i: replace(hits[i], limb=x) for i, x in (dict(limbs) | graces(groove, dict(limbs))).items()}
    return groove.changed(pattern=groove.pattern.with_hits(new.keys(), new.values()))
