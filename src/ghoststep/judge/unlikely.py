"""What a drummer could play but would hardly: time that goes on through a crash, ghosts where the hand has no time,
hands that jump across the kit, flams while both hands are busy."""

from collections.abc import Iterator

import numpy as np

from ghoststep.judge.finding import Finding, keys_of
from ghoststep.judge.kit_setup import KitSetup
from ghoststep.judge.played import LIMB_NAMES, Played
from ghoststep.judge.words import at_words, began, listed, the_voice
from ghoststep.music.kit import VOICE_NAMES, of_kind, voice, with_trait
from ghoststep.music.ornaments import ornament
from ghoststep.music.pattern import Hit
from ghoststep.music.touch import Role

_TIME = tuple(reversed(with_trait("time")))  # hats before rides, closed ones first
_CRASHES = of_kind("crash")
_GHOST_S, _WIDE_S, _WIDE = 0.1, 0.2, 1.2  # seconds around a ghost; seconds and arm's lengths of a jump
_AROUND_S = 0.6  # time is kept where it is struck this near on both sides


def unlikely(played: Played, setup: KitSetup) -> Iterator[Finding]:
    """Every unlikely finding, and flams that find both hands busy."""
    yield from _through_the_crash(played)
    yield from _no_time_for_a_ghost(played)
    yield from _wide(played, setup)
    yield from _flams_with_both_hands(played)
    if played.groove.pattern.rules.linear:
        yield from _not_linear(played)


def _one(
    played: Played, kind: str, name: str, hits: list[Hit], why: str, sure: float, mends: tuple[str, ...]
) -> Finding:
    tick = hits[0].position_ticks
    bar = played.groove.pattern.frame.spot_at(tick).bar
    voices = tuple(dict.fromkeys(h.voice for h in hits))
    return Finding(kind, name, bar, tick, played.spot(tick), voices, why, sure, mends=mends, hits=keys_of(hits))


def _through_the_crash(played: Played) -> Iterator[Finding]:
    """A crash takes the hand that keeps time; where time is struck with it and goes on, nobody moved."""
    hits = played.hits
    time = {v: sorted({h.position_ticks for h in hits if h.voice == v and not h.grace}) for v in _TIME}
    for tick in sorted({h.position_ticks for h in hits if h.voice in _CRASHES}):
        here = {hits[i].voice: hits[i] for i in played.moments.get(tick, ())}
        for keeper in (v for v in _TIME if v in here):
            crash = next((here[c] for c in _CRASHES if c in here), None)
            if crash is not None and _goes_on(played, time[keeper], tick):
                why = f"{began(the_voice(keeper))} goes on through the crash: a hand that crashes leaves it out."
                mends = (f"remove {keeper} {at_words(played, tick)}",)
                yield _one(played, "unlikely", "through the crash", [here[keeper], crash], why, 0.7, mends)


def _goes_on(played: Played, ticks: list[int], at: int) -> bool:
    k = ticks.index(at)
    if not 0 < k < len(ticks) - 1:
        return False
    before, now, after = played.groove.tempo.seconds(ticks[k - 1 : k + 2]).tolist()
    return now - before < _AROUND_S and after - now < _AROUND_S


def _no_time_for_a_ghost(played: Played) -> Iterator[Finding]:
    """A soft stroke close to a stroke of the same hand on another drum."""
    strikes = played.strikes
    for letter in "RL":
        mine = strikes.of_limb(letter)
        if len(mine) < 2:
            continue
        gaps = np.diff(strikes.second[mine])
        near = (gaps < _GHOST_S) & (gaps > 1e-3) & (np.diff(strikes.voice[mine]) != 0)
        for k in np.flatnonzero(near):
            pair = [played.hits[strikes.index[mine[k]]], played.hits[strikes.index[mine[k + 1]]]]
            soft = next((h for h in pair if h.role is Role.GHOST), None)
            loud = next((h for h in pair if h.role is not Role.GHOST), None)
            if soft is None or loud is None:
                continue
            why = (
                f"The {LIMB_NAMES[letter]} has {gaps[k] * 1000:.0f} ms between {the_voice(loud.voice)} and this ghost:"
                " too little for a soft stroke elsewhere."
            )
            place = at_words(played, soft.position_ticks)
            mends = (f"limb {'L' if letter == 'R' else 'R'} on {soft.voice} {place}", f"remove {soft.voice} {place}")
            yield _one(played, "unlikely", "no time for a ghost", [soft, loud], why, 0.6, mends)


def _wide(played: Played, setup: KitSetup) -> Iterator[Finding]:
    """A hand that keeps time and jumps far in between, there and back."""
    strikes = played.strikes
    for letter in "RL":
        mine = strikes.of_limb(letter)
        names = [VOICE_NAMES[v] for v in strikes.voice[mine]]
        gaps = np.diff(strikes.second[mine])
        for k in np.flatnonzero((gaps[:-1] < _WIDE_S) & (gaps[1:] < _WIDE_S)) if len(gaps) > 1 else ():
            a, b, c = names[k : k + 3]
            if (
                a == c
                and a in _TIME
                and b not in _TIME
                and min(gaps[k : k + 2]) > 1e-3
                and setup.distance(a, b) > _WIDE
            ):
                h = played.hits[strikes.index[mine[k + 1]]]
                why = (
                    f"The {LIMB_NAMES[letter]} jumps from {the_voice(a)} to {the_voice(b)} and back within"
                    f" {(gaps[k] + gaps[k + 1]) * 1000:.0f} ms."
                )
                keeper = played.hits[strikes.index[mine[k + 2]]]
                mends = (f"remove {keeper.voice} {at_words(played, keeper.position_ticks)}",
                         f"remove {h.voice} {at_words(played, h.position_ticks)}")  # fmt: skip
                yield _one(played, "unlikely", "hand jumps", [h], why, 0.6, mends)


def _not_linear(played: Played) -> Iterator[Finding]:
    """Limbs that strike together in a part that is kept linear."""
    for tick, indices in played.moments.items():
        hits = sorted((played.hits[i] for i in indices), key=lambda h: h.velocity)
        if len(hits) > 1:
            why = f"{began(listed(hits))} strike together, and the part is kept linear."
            mends = tuple(f"remove {h.voice} {at_words(played, tick)}" for h in hits)
            yield _one(played, "unlikely", "not linear", hits, why, 1.0, mends)


def _flams_with_both_hands(played: Played) -> Iterator[Finding]:
    """A flam needs both hands for one drum; something else in a hand at that moment makes it hard."""
    graced = {(h.position_ticks, h.voice) for h in played.hits if h.grace}
    for tick, indices in played.moments.items():
        hands = [played.hits[i] for i in indices if played.limbs[i] in ("R", "L")]
        if len(hands) < 2:
            continue
        flam = next(
            (h for h in hands if (h.ornament and not ornament(h.ornament).rolls) or (tick, h.voice) in graced), None
        )
        if flam is None:
            continue
        others = [h for h in hands if h is not flam and voice(h.voice).group != voice(flam.voice).group]
        if others:
            why = f"A flam takes both hands, and {the_voice(others[0].voice)} wants one of them at the same moment."
            place = at_words(played, tick)
            graces = (
                f"ornament none on {flam.voice} {place}" if flam.ornament else f"remove graces {flam.voice} {place}"
            )
            yield _one(
                played,
                "hard",
                "flam and more",
                [flam, *others],
                why,
                0.6,
                (f"remove {others[0].voice} {place}", graces),
            )
