"""Hearing again with the groove in mind: a loop repeats itself, and that is evidence too.

Once bars are known, every candidate has a spot. What stands at the same spot of the other bars, and at the same part
of the other beats, makes a voice there more or less likely; so does how often the voice is struck in the recording at
all (a kit without a ride has no single faint ride stroke under a snare). The network's log-odds are shifted by the
log-odds of that expectation against the one it was trained with (Saerens, Latinne & Decaestecker 2002), with a weight,
since the expectation is made of the same uncertain odds.
"""

from collections.abc import Callable, Iterator
from contextlib import suppress
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from ghoststep.listen.alike import metal_alike
from ghoststep.listen.attacks import with_own_attacks
from ghoststep.listen.beginning import less_sure_at_the_beginning
from ghoststep.listen.clear_starts import with_clear_starts
from ghoststep.listen.click_sound import ClickSound
from ghoststep.listen.expected import less_sure, spots_of, with_expected
from ghoststep.listen.explain import Explained, explain, explain_again
from ghoststep.listen.foot import with_feet_under_backbeats, with_hats_of_the_hand, without_doubtful_feet
from ghoststep.listen.hearing import DOUBTFUL, LIMITS, NO_KIT, PERHAPS, Hearing, decided, listen, with_closings
from ghoststep.listen.one_drum import of_one_drum
from ghoststep.listen.one_metal import lone_crashes, of_one_metal
from ghoststep.listen.openness import with_closed_hats
from ghoststep.listen.own_ring import without_own_ring, without_swells
from ghoststep.listen.reading import Click, Hints
from ghoststep.listen.rim_shots import with_rim_shots
from ghoststep.listen.sustain import without_ringing_snares, without_second_bumps
from ghoststep.listen.under_snares import without_hats_only_under_snares
from ghoststep.listen.voicenet import NET_GROUPS, Heard, chance_of, hear_in_bars, odds_of
from ghoststep.music.errors import InputError
from ghoststep.music.time import TICKS_PER_QUARTER

Floats = NDArray[np.float64]
# How often each of NET_GROUPS is struck at a candidate of the training material.
_TRAINED_SHARE = np.array([0.19, 0.20, 0.28, 0.07, 0.13])
_BELIEVED = (0.01, 0.99)  # nothing is expected more surely than that
# Clicks to a quarter that are usual, and how far a reading's tempo may be off.
_TIMES = (1.0, 2.0, 0.5, 2 / 3, 3.0, 4.0, 1 / 3)
_SAME_TEMPO = 0.02
# So many times more or fewer hits than bars were read from: then they are read from what is heard now.
_OTHER_HITS = 1.3
_STEADIER = 0.15  # by so much the hits may stand nearer to a line of their own than to that of the click


@dataclass(frozen=True)
class Weights:
    """How much the context counts; compared on development and own cases (docs/figures.md says which)."""

    context: float = 0.2  # of the whole shift
    hats_with_snares: float = 0.5  # of it once more, for hats where a snare sounds like one
    recording: float = 2.0  # bars' worth of belief in how often a voice is struck at all
    beats: float = 0.25  # of another beat against another bar


def hear_groove(
    samples: NDArray[np.float32],
    rate: int,
    hints: Hints | None = None,
    *,
    weights: Weights | None = None,
    progress: Callable[[float], None] = lambda share: None,
) -> tuple[Hearing, Explained]:
    """Sound to groove: hear, explain, hear again with the groove in mind, explain again.

    Parameters and errors are those of `hearing.listen` and `explain.explain`.
    """
    return groove_of(listen(samples, rate, progress=progress), hints, weights=weights, progress=progress)


def groove_of(
    first: Hearing,
    hints: Hints | None = None,
    *,
    weights: Weights | None = None,
    progress: Callable[[float], None] = lambda share: None,
) -> tuple[Hearing, Explained]:
    """A first hearing to groove: explain, hear again with the groove in mind, explain again.

    Parameters and errors are those of `explain.explain`.
    """
    first, hints, explained = _explained(first, hints or Hints())
    progress(0.95)
    if not explained.readings:  # too little to have a context
        return with_closings(first), explained
    second = heard_again(first, explained, weights or Weights())
    if _other_hits(first, second):
        with suppress(InputError):  # where these hits fit no click or hint, what was read first stays
            anew = explain(second.performance, hints, confidence=second.confidence)
            if anew.readings:
                second, explained = heard_again(first, anew, weights or Weights()), anew
    if second.sound is not None:
        second = replace(second, performance=with_rim_shots(second.performance, second.sound))
    # Tempo and bars are settled; only line, spots and feel are fitted anew, which takes a fraction of the time.
    assert explained.frame is not None
    again = explain_again(second.performance, explained.frame, hints, confidence=second.confidence)
    kept = replace(again, readings=explained.readings, lost_s=explained.lost_s, click=explained.click)
    return with_closings(second), kept


def _other_hits(first: Hearing, second: Hearing) -> bool:
    """Whether so much was put in or taken back that what the first hearing said of bars was said of other playing."""
    before, now = len(first.performance), len(second.performance)
    return max(before, now) >= _OTHER_HITS * min(before, now)


def _explained(first: Hearing, hints: Hints) -> tuple[Hearing, Hints, Explained]:
    """A first explanation, by the click that sounds in the recording where the hits keep to it."""
    explained = explain(first.performance, hints, confidence=first.confidence)
    sounds = first.click
    if sounds is None:
        return first, hints, explained
    told = f"A click sounds in the recording, {sounds.bpm:.4g} a minute; it was taken out before listening"
    if hints.click is not None:
        words = f"{told}. Leans are told against the one you gave."
        return replace(first, remarks=(*first.remarks, words)), hints, explained
    for click in _clicks(sounds, explained):
        clicked = replace(hints, click=click, tempo_bpm=None)
        with suppress(InputError):  # the hits run away from it: then it is left aside, and that is told
            by_it = explain(first.performance, clicked, confidence=first.confidence)
            if by_it.steadiness() >= explained.steadiness() - _STEADIER:
                words = f"{told}, and leans are told against it."
                return replace(first, remarks=(*first.remarks, words)), clicked, by_it
    words = f"{told}. The hits do not keep to it, so leans are told against their own pulse."
    return replace(first, remarks=(*first.remarks, words)), hints, explained


def _clicks(sounds: ClickSound, explained: Explained) -> Iterator[Click]:
    """The click as a beat, for each reading of the hits of which it is a simple multiple or part, the likeliest first.

    A click may sound on eighths, on halves, or on the dotted quarters of compound time.
    """
    seen: set[float] = set()
    for reading in explained.readings:
        for times in _TIMES:
            bpm = sounds.bpm / times
            if abs(bpm / reading.tempo_bpm - 1) < _SAME_TEMPO and times not in seen:
                seen.add(times)
                yield Click(bpm, sounds.at_s)


def heard_again(first: Hearing, explained: Explained, weights: Weights) -> Hearing:
    """The same candidates, and some where other bars have metal, decided anew with what the groove makes likely."""
    first, expected = with_expected(first, explained)
    tempo, frame = explained.groove.tempo, explained.groove.pattern.frame
    heard = hear_in_bars(first.heard, frame.places_of(tempo.to_ticks(first.moments_s - explained.start_s)))
    heard = less_sure_at_the_beginning(less_sure(heard, expected), first.moments_s)
    heard = without_ringing_snares(of_one_drum(heard, LIMITS), first.moments_s)
    heard = without_swells(without_own_ring(heard, first.moments_s, LIMITS), first.moments_s, LIMITS)
    lone = lone_crashes(heard)
    heard = metal_alike(heard, lone)
    heard = without_second_bumps(heard, first.moments_s, 60 / tempo.main_bpm)
    shift = expected_shift(heard, first.moments_s, explained, weights)
    heard = moved(heard, weights.context * shift)
    heard = of_one_metal(heard, PERHAPS, lone)
    heard = moved(heard, weights.hats_with_snares * hats_with_snares(shift, heard))
    heard = without_hats_only_under_snares(heard, first.moments_s, LIMITS)
    heard = without_doubtful_feet(with_hats_of_the_hand(heard, first.moments_s, LIMITS), LIMITS)
    heard = with_feet_under_backbeats(heard, LIMITS)
    if first.sound is not None:
        heard = with_own_attacks(heard, first.moments_s, first.sound, PERHAPS)
        heard = with_closed_hats(heard, first.moments_s, first.sound, LIMITS)
        heard = with_clear_starts(heard, first.moments_s, first.sound, explained, LIMITS)
    remarks = tuple(r for r in first.remarks if r not in (DOUBTFUL, NO_KIT))  # that is judged anew
    played = first.performance
    again = decided(first.moments_s, heard, length_s=played.length_s, cut=played.cut, remarks=remarks)
    return replace(again, sound=first.sound)


def moved(heard: Heard, shift: Floats) -> Heard:
    """What was heard with the log-odds of NET_GROUPS moved, shape (n, groups)."""
    return replace(heard, group_odds=(heard.group_odds + shift).astype(np.float32))


def expected_shift(heard: Heard, moments_s: Floats, explained: Explained, weights: Weights) -> Floats:
    """By how much what stands at the same spot of other bars makes each group likelier, in log-odds; (n, groups)."""
    expected = _expected(moments_s, chance_of(heard.group_odds), explained, weights)
    return np.asarray(odds_of(np.clip(expected, *_BELIEVED)) - odds_of(_TRAINED_SHARE))


def hats_with_snares(shift: Floats, heard: Heard) -> Floats:
    """The part of a shift that goes to hats where a snare is likelier than not: it has much of what a hat has."""
    out = np.zeros_like(shift)
    snare, hat = (NET_GROUPS.index(group) for group in ("snare", "hat"))
    struck = heard.group_odds[:, snare] >= 0
    out[struck, hat] = shift[struck, hat]
    return out


def _expected(moments_s: Floats, chance: Floats, explained: Explained, weights: Weights) -> Floats:
    """Expected share of each group at each candidate, its own bar left out; shape (n, groups)."""
    groove = explained.groove
    pattern = groove.pattern
    step = TICKS_PER_QUARTER // (6 if pattern.grid in (12, 24) else 4)
    spots = spots_of(moments_s, explained)
    steps_per_bar = -(-pattern.meter.bar_ticks // step)
    bar = pattern.frame.bars_of(spots)
    place = (spots - pattern.frame.start_of(bar)) // step
    low, bars = int(bar.min()), int(bar.max() - bar.min()) + 1
    struck = np.zeros((bars, steps_per_bar, len(NET_GROUPS)))
    np.maximum.at(struck, (bar - low, place), chance)
    per_beat = max(1, TICKS_PER_QUARTER // step)
    usual = chance.mean(axis=0)
    by_place = struck.sum(axis=0)
    phase = np.arange(steps_per_bar) % per_beat
    by_phase = np.stack([by_place[phase == p].sum(axis=0) for p in range(per_beat)])
    beats = np.array([(phase == p).sum() for p in range(per_beat)])
    own = struck[bar - low, place]
    same_place = by_place[place] - own
    same_phase = by_phase[phase[place]] - by_place[place]
    other_beats = (beats[phase[place]] - 1)[:, None] * bars
    total = weights.recording * usual + same_place + weights.beats * same_phase
    count = weights.recording + (bars - 1) + weights.beats * other_beats
    return np.asarray(total / count)
