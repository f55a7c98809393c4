"""The sticking line: which limb plays what, as a shortest path over the moments of a groove.

At each moment the hands may be shared out in a few ways; a way costs what it asks of the player: strokes of one hand
close together, travel between drums, crossed hands, and leaving the hand that usually plays a voice. Dynamic
programming keeps the cheapest ways so far (a beam, since a hand's past matters only by where and when it last struck).
Feet play kick and pedal. The weights are working assumptions; a hand does about 8 strokes a second for long and 12 in
a burst.
"""

from collections.abc import Sequence
from dataclasses import dataclass

from ghoststep.feel.ornaments import spelled_out
from ghoststep.music.errors import InputError
from ghoststep.music.groove import Groove
from ghoststep.music.kit import LANE_OF_VOICE, voice
from ghoststep.music.pattern import Hit

WAYS = ("right-handed", "left-handed", "open-handed")
BEAM = 48
# Where a drum stands, from the player's left to the right in arm's lengths, on a right-handed kit.
_STANDS = {
    "hat_closed": -0.6, "hat_half": -0.6, "hat_open": -0.6, "crash": -0.5, "splash": -0.2, "snare": -0.1,
    "cross_stick": -0.1, "tom_high": 0.1, "tom_mid": 0.5, "tom_low": 1.0, "ride": 1.1, "ride_bell": 1.1,
}  # fmt: skip
# Below the first a hand begins to tire, below the second it can only do a few.
_EASY_S, _BURST_S = 0.14, 1 / 12
_USUAL, _LEAD, _CROSSED, _TRAVEL, _TOO_FAST, _FAST = 0.55, 0.12, 0.35, 0.08, 40.0, 3.0


@dataclass(frozen=True)
class _Hand:
    """When and where a hand last struck."""

    time_s: float = -10.0
    place: float = 0.0


@dataclass(frozen=True)
class _Path:
    cost: float
    right: _Hand
    left: _Hand
    letters: tuple[tuple[int, str], ...] = ()  # hit index and hand, of the last moment
    before: "_Path | None" = None


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
    beam = [_Path(0.0, _Hand(), _Hand())]
    for indices, time_s in zip(moments, seconds, strict=True):
        strong = hits[indices[0]].position_ticks % (groove.pattern.meter.unit_ticks) == 0
        ways = _shares([hits[i] for i in indices])
        found: dict[tuple[_Hand, _Hand], _Path] = {}
        for path in beam:
            for share in ways:
                new = _next(path, hits, indices, share, float(time_s), way, strong)
                key = (new.right, new.left)
                if key not in found or new.cost < found[key].cost:
                    found[key] = new
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


def _shares(hits: list[Hit]) -> list[str]:
    """Ways to share strokes out: one letter a hit. More than two at once cannot be played and are shared out anyway."""
    if len(hits) == 1:
        return ["R", "L"]
    if len(hits) == 2:
        return ["RL", "LR"]
    return ["".join("LR"[(i + k) % 2] for i in range(len(hits))) for k in (0, 1)]


def _next(
    path: _Path, hits: Sequence[Hit], indices: list[int], share: str, time_s: float, way: str, strong: bool
) -> _Path:
    right, left, cost = path.right, path.left, path.cost
    places = {}
    for i, letter in zip(indices, share, strict=True):
        hand = right if letter == "R" else left
        place = _place(hits[i].voice, way)
        gap = time_s - hand.time_s
        cost += _effort(gap, abs(place - hand.place)) + _habit(hits[i].voice, letter, way, strong)
        places[letter] = place
        if letter == "R":
            right = _Hand(time_s, place)
        else:
            left = _Hand(time_s, place)
    if len(places) == 2 and places["R"] < places["L"]:
        cost += _CROSSED
    return _Path(cost, right, left, tuple(zip(indices, share, strict=True)), path)


def _place(name: str, way: str) -> float:
    """A left-handed player has the kit mirrored."""
    place = _STANDS.get(name, 0.0)
    return -place if way == "left-handed" else place


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


def _habit(name: str, letter: str, way: str, strong: bool) -> float:
    """What it costs to leave the usual hand of a voice, and to lead with the weaker hand."""
    lead = "L" if way == "left-handed" else "R"
    lane = LANE_OF_VOICE[name]
    on_hats = LANE_OF_VOICE["hat_closed"] == lane
    usual = lead
    if name in ("snare", "cross_stick") or (way == "open-handed" and on_hats):
        usual = "L" if lead == "R" else "R"
    if way == "open-handed" and name in ("snare", "cross_stick"):
        usual = lead
    return (_USUAL if letter != usual else 0.0) + (_LEAD if strong and letter != lead else 0.0)


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
