"""The sticking line: which limb plays what, as a shortest path over the moments of a groove.

At each moment the hands may be shared out in a few ways; a way costs what it asks of the player: strokes of one hand
close together, travel between drums, crossed hands, and leaving the hand that usually plays a voice. Dynamic
programming keeps the cheapest ways so far (a beam, since a hand's past matters only by where and when it last struck).
Feet play kick and pedal. The weights are working assumptions; a hand does about 8 strokes a second for long and 12 in
a burst.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cache
from typing import NamedTuple

from ghoststep.feel.ornaments import spelled_out
from ghoststep.music.errors import InputError
from ghoststep.music.groove import Groove
from ghoststep.music.kit import LANE_OF_VOICE, voice
from ghoststep.music.pattern import Hit

WAYS = ("right-handed", "left-handed", "open-handed")
BEAM = 10
# Where a drum stands, from the player's left to the right in arm's lengths, on a right-handed kit.
_STANDS = {
    "hat_closed": -0.6, "hat_half": -0.6, "hat_open": -0.6, "crash": -0.5, "splash": -0.2, "snare": -0.1,
    "cross_stick": -0.1, "tom_high": 0.1, "tom_mid": 0.5, "tom_low": 1.0, "ride": 1.1, "ride_bell": 1.1,
}  # fmt: skip
# A hand begins to tire below the first, and can only do a few below the second. Strokes on one drum that come closer
# than the third, or on the cymbals that keep time than the fourth, are shared out to both hands (working assumptions).
_EASY_S, _BURST_S, _SHARED_S, _SHARED_TIME_S = 0.14, 1 / 12, 0.2, 0.14
# A hand leaves the cymbals it keeps time on less readily than any drum; a stroke of the same hand where two should
# share costs a little more than leaving.
_USUAL, _USUAL_TIME, _REPEATED = 0.45, 1.0, 1.15
_LEAD, _CROSSED, _TRAVEL, _TOO_FAST, _FAST = 0.12, 0.35, 0.08, 40.0, 3.0
_LONG_AGO_S = 1.0  # what a hand did before no longer matters
_TIME_LANES = {LANE_OF_VOICE[name] for name in ("hat_closed", "ride")}


_Letters = tuple[tuple[int, str], ...]  # index of a hit, and its hand


class _Path(NamedTuple):
    """A way so far: its cost, when and where each hand struck last, and the hands of the last moment's hits."""

    cost: float
    right: tuple[float, float]
    left: tuple[float, float]
    letters: _Letters = ()
    before: "_Path | None" = None


@dataclass(frozen=True)
class _Stroke:
    """A hit for a hand, with what each hand would pay for it before its past is looked at."""

    index: int
    place: float
    habit: dict[str, float]
    shared_s: float
    repeated: float


def sticking(groove: Groove, way: str = "right-handed") -> dict[int, str]:
    """The limb of every hit of the pattern: index -> R, L, K or H.

    Grace notes take the other hand than their stroke.
    """
    if way not in WAYS:
        raise InputError(f"'{way}' is no way to play. There are: {', '.join(WAYS)}.")
    hits = groove.pattern.hits
    out = {i: voice(h.voice).limb for i, h in enumerate(hits) if voice(h.voice).limb in ("K", "H")}
    moments = _moments(hits)
    seconds = groove.tempo.seconds([hits[m[0]].position_ticks for m in moments])
    beats = {tick for tick, _ in groove.pattern.frame.beats(0, groove.pattern.length_ticks)}
    beam = [_Path(0.0, (-10.0, 0.0), (-10.0, 0.0))]
    for indices, moment_s in zip(moments, seconds, strict=True):
        strong = hits[indices[0]].position_ticks in beats
        strokes = [_stroke(i, hits[i].voice, way, strong=strong) for i in indices]
        found: dict[tuple[tuple[float, float], tuple[float, float]], _Path] = {}
        for share in _shares(len(strokes)):
            letters = tuple(zip(indices, share, strict=True))
            for path in beam:
                new = _next(path, strokes, share, float(moment_s), letters)
                if new[1:3] not in found or new.cost < found[new[1:3]].cost:
                    found[new[1:3]] = new
        beam = sorted(found.values(), key=lambda p: p.cost)[:BEAM]
    at: _Path | None = beam[0]
    while at is not None:
        out |= dict(at.letters)
        at = at.before
    return out | _graces(hits, out)


def _moments(hits: Sequence[Hit]) -> list[list[int]]:
    """Indices of the hits for the hands, by the instant they are meant for."""
    by: dict[int, list[int]] = {}
    for i, h in enumerate(hits):
        if not h.grace and voice(h.voice).limb not in ("K", "H"):
            by.setdefault(h.position_ticks, []).append(i)
    return [by[t] for t in sorted(by)]


def _shares(strokes: int) -> tuple[str, ...]:
    """Ways to share strokes out: one letter a hit. More than two at once cannot be played and are shared out anyway."""
    if strokes == 1:
        return "R", "L"
    return ("RL" * strokes)[:strokes], ("LR" * strokes)[:strokes]


def _stroke(index: int, name: str, way: str, *, strong: bool) -> _Stroke:
    place = _STANDS.get(name, 0.0)
    keeps_time = LANE_OF_VOICE[name] in _TIME_LANES
    away = _USUAL_TIME if keeps_time else _USUAL
    habit = {letter: _habit(name, letter, way, away, strong=strong) for letter in "RL"}
    # A left-handed player has the kit mirrored.
    place = -place if way == "left-handed" else place
    return _Stroke(index, place, habit, _SHARED_TIME_S if keeps_time else _SHARED_S, _REPEATED * away)


def _next(path: _Path, strokes: list[_Stroke], share: str, moment_s: float, letters: _Letters) -> _Path:
    cost, right, left = path[0], path[1], path[2]
    for stroke, letter in zip(strokes, share, strict=True):
        struck_s, place = right if letter == "R" else left
        gap_s = moment_s - struck_s
        cost += _effort(gap_s, abs(stroke.place - place)) + stroke.habit[letter]
        if gap_s < stroke.shared_s:
            cost += stroke.repeated
        if letter == "R":
            right = (moment_s, stroke.place)
        else:
            left = (moment_s, stroke.place)
    if len(strokes) > 1 and right[1] < left[1]:
        cost += _CROSSED
    if moment_s - right[0] > _LONG_AGO_S:
        right = (moment_s - _LONG_AGO_S, right[1])
    if moment_s - left[0] > _LONG_AGO_S:
        left = (moment_s - _LONG_AGO_S, left[1])
    return _Path(cost, right, left, letters, path)


def _effort(gap_s: float, distance: float) -> float:
    """What one more stroke of the same hand costs, by the time it has and the way it goes."""
    if gap_s <= 0:
        return _TOO_FAST
    cost = distance * _TRAVEL / gap_s
    if gap_s < _BURST_S:
        return cost + _TOO_FAST * (_BURST_S / gap_s - 0.9)
    if gap_s < _EASY_S:
        cost += _FAST * (_EASY_S / gap_s - 1)
    return cost + 0.004 / gap_s


@cache
def _habit(name: str, letter: str, way: str, away: float, *, strong: bool) -> float:
    """What it costs to leave the usual hand of a voice, and to lead with the weaker hand."""
    lead = "L" if way == "left-handed" else "R"
    on_hats = LANE_OF_VOICE["hat_closed"] == LANE_OF_VOICE[name]
    usual = lead
    if name in ("snare", "cross_stick") or (way == "open-handed" and on_hats):
        usual = "L" if lead == "R" else "R"
    if way == "open-handed" and name in ("snare", "cross_stick"):
        usual = lead
    return (away if letter != usual else 0.0) + (_LEAD if strong and letter != lead else 0.0)


def _graces(hits: Sequence[Hit], limbs: dict[int, str]) -> dict[int, str]:
    """A grace note is played by the hand that does not play the stroke it leads to."""
    mains = {(h.position_ticks, h.voice): i for i, h in enumerate(hits) if not h.grace}
    out = {}
    for i, h in enumerate(hits):
        if h.grace:
            main = limbs.get(mains.get((h.position_ticks, h.voice), -1), "R")
            out[i] = {"R": "L", "L": "R"}.get(main, main)
    return out


def line(groove: Groove) -> list[tuple[int, str]]:
    """The sticking line as it is set: (position in ticks, letters struck there), ornaments spelled out."""
    by: dict[int, str] = {}
    for h in spelled_out(groove).pattern.hits:
        if not h.grace:
            letters = by.get(h.position_ticks, "")
            by[h.position_ticks] = letters if h.limb_letter in letters else letters + h.limb_letter
    return [(t, "".join(sorted(by[t], key="RLKH".index))) for t in sorted(by)]
