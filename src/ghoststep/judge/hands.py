"""The sticking: which limb plays what, as a shortest path over the moments of a groove.

At each moment the hands may be shared out in a few ways; a way costs what it asks of the player: strokes of one hand
close together, travel between drums, crossed hands, and leaving the hand that usually plays a voice. Dynamic
programming keeps the cheapest ways so far (a beam, since a hand's past matters only by where and when it last struck).
Hands that are given are kept. Feet play kick and pedal; with two kick pedals they take turns in runs. The weights are
working assumptions, in the unit of "a stroke by the less usual hand costs about a half".
"""

from collections.abc import Iterator, Sequence
from functools import cache, lru_cache
from typing import NamedTuple

from ghoststep.judge.hat_work import busy, taken
from ghoststep.judge.kit_setup import STANDARD, WAYS, KitSetup
from ghoststep.judge.strokes import Cut, Stroke, Window, windows
from ghoststep.music.errors import InputError
from ghoststep.music.groove import Groove
from ghoststep.music.kit import LANE_OF_VOICE, OTHER_HAND, voice

BEAM = 10
# A hand begins to tire below the first, and can only do a few below the second. Strokes on one drum that come closer
# than the third, or on the cymbals that keep time than the fourth, are shared out to both hands (a run alternates
# unless it is slower than about 5 strokes a second).
_EASY_S, _BURST_S, _SHARED_S, _SHARED_TIME_S = 0.14, 1 / 12, 0.2, 0.14
# A hand leaves the cymbals it keeps time on less readily than any drum; a stroke of the same hand where two should
# share costs a little more than leaving.
_USUAL, _USUAL_TIME, _REPEATED = 0.45, 1.0, 1.15
_LEAD, _CROSSED, _TRAVEL, _TOO_FAST, _FAST = 0.3, 0.35, 0.08, 40.0, 3.0
# So far to the other side (arm's lengths) the leading hand still plays by habit, and over so much the habit turns.
_CROSS, _CROSS_TIME, _CROSS_WIDTH = -0.5, -0.7, 0.4
_LONG_AGO_S = 1.0  # what a hand did before no longer matters
_FEET_SHARE_S = 0.17  # kicks that come closer are shared out to both feet where there are two pedals
_TIME_LANES = {LANE_OF_VOICE[name] for name in ("hat_closed", "ride")}
_TIME = ("hat_closed", "hat_half", "hat_open", "ride", "ride_bell")
_BACKBEATS, _BOTH_S, _FROM_TIME = ("snare", "cross_stick"), 0.2, 0.5


class Taste(NamedTuple):
    """What a sticking leans to: how long a hand keeps the cymbals alone (seconds between strokes), whether one hand
    may repeat on drums at little cost, and the hand that begins."""

    time_shared_s: float = _SHARED_TIME_S
    repeated: float = _REPEATED
    first: str = ""


PLAIN = Taste()
Past = tuple[float, str, float, str]  # second and voice of the last stroke of the right hand, and of the left
_LONG_BEFORE: Past = (-_LONG_AGO_S, "", -_LONG_AGO_S, "")


class Assigned(NamedTuple):
    """Limbs of a window's own strokes, in their order; what the hands did last, from the window's end; the cost."""

    limbs: tuple[str, ...]
    past: Past
    cost: float


class _Path(NamedTuple):
    cost: float
    past: Past
    letters: str = ""
    before: "_Path | None" = None


def sticking(
    groove: Groove,
    way: str = "right-handed",
    *,
    setup: KitSetup = STANDARD,
    taste: Taste = PLAIN,
    keep: bool = False,
) -> dict[int, str]:
    """The limb of every hit of the pattern: index -> R, L, K or H; grace notes take the other hand than their stroke.

    `keep`: limbs that hits name stay, and the rest is worked out around them; else everything is worked out.

    Raises
    ------
    InputError
        Where there is no such way to play.
    """
    if way not in WAYS:
        raise InputError(f"'{way}' is no way to play. There are: {', '.join(WAYS)}.")
    cuts = list(windows(groove))
    limbs: dict[int, str] = {}
    for cut, found in zip(cuts, along(cuts, way, setup, taste, keep=keep), strict=True):
        limbs |= zip(cut.indices, found.limbs, strict=True)
    return limbs | graces(groove, limbs)


def along(cuts: Sequence[Cut], way: str, setup: KitSetup, taste: Taste, *, keep: bool) -> Iterator[Assigned]:
    """The limbs of window after window, each with the hands where the one before left them."""
    past = _LONG_BEFORE
    for cut in cuts:
        found = assigned(cut.window, past, way, setup, taste, keep)
        yield found
        past, taste = found.past, taste._replace(first="") if found.limbs else taste


@lru_cache(maxsize=4096)
def assigned(window: Window, past: Past, way: str, setup: KitSetup, taste: Taste, keep: bool) -> Assigned:
    """The limbs of one window, by what the hands did before it."""
    strokes = window.strokes
    given = [s.given if keep else "" for s in strokes]
    limbs = [
        g or ("" if not s.foot else "K" if voice(s.voice).limb == "K" else "H")
        for s, g in zip(strokes, given, strict=True)
    ]
    if setup.kick_pedals == 2:
        _both_feet(strokes, given, limbs)
    moments = _moments(strokes, limbs, given)
    best = _best(
        strokes, moments, given, past, _Costs(way, setup, taste), {b for bar in window.bars for b in bar.beats}
    )
    end_tick, end_s = (
        window.end_tick,
        window.bars[window.own_bars].second if len(window.bars) > window.own_bars else 0.0,
    )
    left = (best.past, best.cost)
    at: _Path | None = best
    for indices in reversed(moments):
        assert at is not None
        if strokes[indices[0]].tick >= end_tick and at.before is not None:
            left = (at.before.past, at.before.cost)
        for i, letter in zip(indices, at.letters, strict=True):
            limbs[i] = letter
        at = at.before
    own = tuple(limb for s, limb in zip(strokes, limbs, strict=True) if s.tick < end_tick)
    return Assigned(own, _ago(left[0], end_s), left[1])


def _ago(past: Past, now_s: float) -> Past:
    """The same past seen from another moment; what is long ago is all alike."""
    right, left = (round(max(s - now_s, -_LONG_AGO_S), 4) for s in (past[0], past[2]))
    return right, past[1] if right > -_LONG_AGO_S else "", left, past[3] if left > -_LONG_AGO_S else ""


def _both_feet(strokes: Sequence[Stroke], given: Sequence[str], limbs: list[str]) -> None:
    """Kicks in a run take turns, the right foot first and after a rest; never while the left foot works the hat."""
    at_hat = busy([(s.second, s.voice) for s in strokes])
    last_s, last = -_LONG_AGO_S, "H"
    for i, s in enumerate(strokes):
        if s.voice != "kick":
            continue
        if not given[i]:
            turn = s.second - last_s < _FEET_SHARE_S and last == "K" and taken(at_hat, s.second) is None
            limbs[i] = "H" if turn else "K"
        last_s, last = s.second, limbs[i]


def _moments(strokes: Sequence[Stroke], limbs: Sequence[str], given: Sequence[str]) -> list[list[int]]:
    """Indices of the strokes for the hands, by the instant they are meant for."""
    by: dict[int, list[int]] = {}
    for i, s in enumerate(strokes):
        if not limbs[i] or given[i] in ("R", "L"):
            by.setdefault(s.tick, []).append(i)
    return [by[t] for t in sorted(by)]


def _shares(given: Sequence[str]) -> tuple[str, ...]:
    """Ways to share strokes out that keep what is given, one letter a stroke.

    More than two at once cannot be played and are shared out anyway.
    """
    number = len(given)
    both = ("R", "L") if number == 1 else (("RL" * number)[:number], ("LR" * number)[:number])
    if not any(given):
        return both
    if number == 1:
        return (given[0],)
    if number == 2:
        a, b = given
        return ((a or OTHER_HAND[b]) + (b or OTHER_HAND[a]),)
    return tuple({"".join(g or x for g, x in zip(given, share, strict=True)): None for share in both})


class _Costs:
    """What strokes cost by voice and hand, for one way to play, set-up and taste."""

    def __init__(self, way: str, setup: KitSetup, taste: Taste) -> None:
        self.way, self.setup, self.taste = way, setup, taste
        self.mirrored = way == "left-handed"
        self.lead = "L" if self.mirrored else "R"
        self.distance = cache(setup.distance)

    @cache  # noqa: B019 - lives as long as one window's work
    def habit(self, name: str, letter: str, strong: bool) -> float:
        """What it costs to leave the usual hand of a voice, and to lead with the weaker hand."""
        lead, other = self.lead, OTHER_HAND[self.lead]
        weaker = _LEAD if strong and letter != lead else 0.0
        away = _USUAL_TIME if LANE_OF_VOICE[name] in _TIME_LANES else _USUAL
        on_hats = LANE_OF_VOICE["hat_closed"] == LANE_OF_VOICE[name]
        if name in ("snare", "cross_stick"):
            usual = lead if self.way == "open-handed" else other
        elif self.way == "open-handed" and on_hats:
            usual = other
        else:
            far = self.far_side(name)
            return away * (far if letter == lead else 1 - far) + weaker
        return (away if letter != usual else 0.0) + weaker

    def far_side(self, name: str) -> float:
        """How much a voice stands on the side of the other hand: 0 in reach of the leading one, 1 far past it.

        Cymbals that keep time are crossed over to for longer than others.
        """
        right = self.setup.stand_of(name)[0]  # on the side of the leading hand, whichever that is
        near = _CROSS_TIME if LANE_OF_VOICE[name] in _TIME_LANES else _CROSS
        return min(max((near - right) / _CROSS_WIDTH, 0.0), 1.0)

    @cache  # noqa: B019
    def sharing(self, name: str) -> tuple[float, float]:
        """Below which distance (seconds) both hands share a voice, and what one hand alone costs there."""
        keeps_time = LANE_OF_VOICE[name] in _TIME_LANES
        away = _USUAL_TIME if keeps_time else _USUAL
        return (self.taste.time_shared_s if keeps_time else _SHARED_S), self.taste.repeated * away

    def right_of(self, name: str) -> float:
        right = self.setup.stand_of(name)[0]
        return -right if self.mirrored else right


def _best(
    strokes: Sequence[Stroke],
    moments: list[list[int]],
    given: Sequence[str],
    past: Past,
    costs: _Costs,
    beats: set[int],
) -> _Path:
    beam = [_Path(0.0, past)]
    first = costs.taste.first
    last_s = max(past[0], past[2])
    for indices in moments:
        shares = _shares([given[i] if given[i] in ("R", "L") else "" for i in indices])
        if first and len(indices) == 1 and not given[indices[0]]:
            shares = (first,)
        first = ""
        row = [strokes[i] for i in indices]
        # The leading hand begins; once a run goes on, hands alternate wherever the beats fall.
        strong = row[0].tick in beats and row[0].second - last_s >= _SHARED_S
        last_s = row[0].second
        found: dict[Past, _Path] = {}
        for share in shares:
            base = sum(costs.habit(s.voice, x, strong) for s, x in zip(row, share, strict=True))
            for path in beam:
                cost, now = _moved(path.cost + base, path.past, row, share, costs)
                if now not in found or cost < found[now].cost:
                    found[now] = _Path(cost, now, share, path)
        beam = sorted(found.values(), key=lambda p: p.cost)[:BEAM]
    return beam[0]


def _moved(cost: float, past: Past, row: Sequence[Stroke], share: str, costs: _Costs) -> tuple[float, Past]:
    """The cost with what these strokes ask of the hands, and where the hands are then."""
    right_s, right, left_s, left = past
    for stroke, letter in zip(row, share, strict=True):
        now_s, name = stroke.second, stroke.voice
        at_s, was = (right_s, right) if letter == "R" else (left_s, left)
        gap_s = now_s - at_s
        cost += _effort(gap_s, costs.distance(was, name) if was else 0.0)
        below_s, repeated = costs.sharing(name)
        if gap_s < below_s:
            cost += repeated
        other_s, beside = (left_s, left) if letter == "R" else (right_s, right)
        if letter == costs.lead and name in _BACKBEATS and beside in _TIME and now_s - other_s < _BOTH_S:
            cost -= _FROM_TIME  # both hands are on the hat: the leading one goes to the snare as well
        until = other = now_s
        for later_s, same in stroke.roll:
            until, other = (now_s + later_s, other) if same else (until, now_s + later_s)
        if letter == "R":
            right_s, right = until, name
            left_s, left = (other, name) if stroke.roll else (left_s, left)
        else:
            left_s, left = until, name
            right_s, right = (other, name) if stroke.roll else (right_s, right)
    if len(row) > 1 and right and left and costs.right_of(right) < costs.right_of(left):
        cost += _CROSSED
    oldest = row[0].second - _LONG_AGO_S
    return cost, (max(right_s, oldest), right, max(left_s, oldest), left)


def _effort(gap_s: float, distance: float) -> float:
    """What one more stroke of the same hand costs, by the time it has and the way it goes."""
    if gap_s <= 1e-6:
        return _TOO_FAST
    cost = distance * _TRAVEL / gap_s
    if gap_s < _BURST_S:
        return cost + _TOO_FAST * (_BURST_S / gap_s - 0.9)
    if gap_s < _EASY_S:
        cost += _FAST * (_EASY_S / gap_s - 1)
    return cost + 0.004 / gap_s


def graces(groove: Groove, limbs: dict[int, str]) -> dict[int, str]:
    """A grace note is played by the hand that does not play the stroke it leads to: index -> limb."""
    hits = groove.pattern.hits
    leading = [i for i, h in enumerate(hits) if h.grace]
    if not leading:
        return {}
    mains = {(h.position_ticks, h.voice): i for i, h in enumerate(hits) if not h.grace}
    out = {}
    for i in leading:
        main = limbs.get(mains.get((hits[i].position_ticks, hits[i].voice), -1), "R")
        out[i] = OTHER_HAND.get(main, main)
    return out
