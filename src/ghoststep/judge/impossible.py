"""What no drummer could play: limbs in two places, hands too few, rates and ways too fast, a foot that is elsewhere."""

from collections.abc import Iterator

from ghoststep.judge.finding import Finding, keys_of
from ghoststep.judge.kit_setup import KitSetup
from ghoststep.judge.limits import Limit
from ghoststep.judge.played import LIMB_NAMES, Played
from ghoststep.judge.words import at_words, began, listed, the_voice
from ghoststep.music.kit import OTHER_HAND, voice
from ghoststep.music.pattern import Hit

# Of strokes that are one too many, the first of these goes: time keeping before what the bar is about.
_FIRST_GONE = (
    "hat_closed", "hat_half", "hat_open", "ride", "ride_bell", "cross_stick", "splash", "tom_mid", "tom_high",
    "tom_low", "crash", "snare",
)  # fmt: skip
_NEARLY = 0.08  # of the limit: what lies so near it on either side is hard, since players differ


def too_many(played: Played, setup: KitSetup) -> Iterator[Finding]:
    """Three hands, one limb on two things, two hats, an open hat the foot closes, no pedal."""
    for tick, indices in played.moments.items():
        if len(indices) > 1:
            yield from _at_once(played, tick, indices)
    if setup.kick_pedals == 0:
        yield from _no_pedal(played)


def _at_once(played: Played, tick: int, indices: list[int]) -> Iterator[Finding]:
    hits = [played.hits[i] for i in indices]
    hats = [h for h in hits if voice(h.voice).group == "hat" and h.voice != "hat_pedal"]
    pedal = [h for h in hits if h.voice == "hat_pedal"]
    if len(hats) > 1:
        yield _made(played, "two hats", tick, hats, f"{began(listed(hats))} at once: a hat is open or shut.",
                    _gone(played, hats, tick))  # fmt: skip
    if pedal and hats and hats[0].voice in ("hat_open", "hat_half"):
        why = "The foot closes the hat at the very moment the stick plays it open."
        mends = (
            f"remove hat_pedal {at_words(played, tick)}",
            f"voice hat_closed on {hats[0].voice} {at_words(played, tick)}",
        )
        yield _made(played, "open and shut", tick, [*hats, *pedal], why, mends)
    by_limb: dict[str, list[Hit]] = {}
    for i in indices:
        by_limb.setdefault(played.limbs[i], []).append(played.hits[i])
    by_hand = [h for i, h in zip(indices, hits, strict=True) if played.limbs[i] in ("R", "L") and h not in hats[1:]]
    if len(by_hand) > 2:
        why = f"{began(listed(by_hand))} at once ask for {len(by_hand)} hands."
        yield _made(played, "three hands", tick, by_hand, why, _gone(played, by_hand, tick))
        return
    for letter, own in by_limb.items():
        if len(own) > 1 and len(hats) < 2:
            why = f"The {LIMB_NAMES[letter]} would play {listed(own)} at once."
            free = OTHER_HAND.get(letter, "")
            swap = (f"limb {free} on {own[0].voice} {at_words(played, tick)}",) if free and free not in by_limb else ()
            yield _made(played, "hands clash", tick, own, why, (*swap, *_gone(played, own, tick)))


def _gone(played: Played, hits: list[Hit], tick: int) -> tuple[str, ...]:
    """Phrases that take one of these strokes away, the least missed first."""
    order = sorted(hits, key=lambda h: _FIRST_GONE.index(h.voice) if h.voice in _FIRST_GONE else 0)
    return tuple(f"remove {h.voice} {at_words(played, tick)}" for h in order)


def _made(played: Played, name: str, tick: int, hits: list[Hit], why: str, mends: tuple[str, ...]) -> Finding:
    bar = played.groove.pattern.frame.spot_at(tick).bar
    voices = tuple(dict.fromkeys(h.voice for h in hits))
    return Finding("impossible", name, bar, tick, played.spot(tick), voices, why, mends=mends, hits=keys_of(hits))


def _no_pedal(played: Played) -> Iterator[Finding]:
    kicks = [h for h in played.hits if h.voice == "kick"]
    if kicks:
        why = f"The kit has no kick pedal, and the kick is played {len(kicks)} times."
        yield _made(played, "no pedal", kicks[0].position_ticks, kicks[:1], why, ("remove kick",))


def too_fast(played: Played, limits: list[Limit]) -> Iterator[Finding]:
    """Limbs past their limit, and those close under it."""
    for row in limits:
        if row.now_bpm > row.bpm * (1 + _NEARLY):
            yield _fast(played, row, "impossible", 1.0)
        elif row.now_bpm > row.bpm * (1 - _NEARLY):
            yield _fast(played, row, "hard", 0.7)


def _fast(played: Played, row: Limit, kind: str, sure: float) -> Finding:
    strikes = played.strikes
    mine = strikes.of_limb(row.limb)
    end = int(next(k for k, m in enumerate(mine) if strikes.index[m] == row.hit))
    run = [played.hits[i] for i in dict.fromkeys(strikes.index[mine[max(end - row.strokes + 1, 0) : end + 1]].tolist())]
    first, last = run[0], played.hits[row.hit]
    rate = 1 / row.gap_s
    limb = LIMB_NAMES[row.limb]
    if row.strokes == 2 and first.voice != last.voice:
        name, what = (
            "far",
            f"goes from {the_voice(first.voice)} to {the_voice(last.voice)} in {row.gap_s * 1000:.0f} ms",
        )
    else:
        name, what = "too fast", f"plays {row.strokes} strokes in a row at {rate:.1f} a second"
    why = f"The {limb} {what}; that goes from {row.whole_bpm} BPM down."
    if kind == "hard":
        why = f"The {limb} {what}; that is near the limit, {row.whole_bpm} BPM."
    voices = tuple(dict.fromkeys(h.voice for h in run))
    tick = first.position_ticks
    mends = _slower(played, run, row) if kind == "impossible" else ()
    return Finding(
        kind, name, row.bar, tick, played.spot(tick), voices, why, sure, row.whole_bpm, mends, keys_of(run)
    )  # fmt: skip


def _slower(played: Played, run: list[Hit], row: Limit) -> tuple[str, ...]:
    """The other hand, the softest stroke out, every second one, all off the beat, a slower tempo: what may help."""
    start = played.groove.pattern.frame.start_of(row.bar)
    bar, name = f"bars {row.bar}", run[-1].voice
    inside = played.groove.pattern.between(start, start + played.groove.pattern.frame.length_of(row.bar))
    mine = [i for i in inside if played.hits[i].voice == name and not played.hits[i].grace]
    by_limb = [played.hits[i] for i in mine if played.limbs[i] == row.limb]
    out = []
    if row.limb in OTHER_HAND and by_limb[1::2]:
        out.append(f"limb {OTHER_HAND[row.limb]} on {name} at {_spots(played, by_limb[1::2])} {bar}")
    softest = min(run, key=lambda h: (h.velocity, -h.position_ticks))
    out.append(f"remove {softest.voice} {at_words(played, softest.position_ticks)}")
    if any(h.ornament for h in run):
        out.append(f"ornament none on {name} {bar}")
    beats = _beats(played, row.bar)
    for thinned in (by_limb[1::2], [h for h in by_limb if h.position_ticks not in beats]):
        if thinned:
            out.append(f"remove {name} at {_spots(played, thinned)} {bar}")
    if row.limb in ("K", "H"):
        out.append("pedals 2")
    if row.whole_bpm >= 20:
        out.append(f"tempo {row.whole_bpm}")
    return tuple(dict.fromkeys(out))


def _spots(played: Played, hits: list[Hit]) -> str:
    return ", ".join(dict.fromkeys(played.spot(h.position_ticks) for h in hits))


def _beats(played: Played, bar: int) -> set[int]:
    frame = played.groove.pattern.frame
    start = frame.start_of(bar)
    return {t for t, _ in frame.beats(start, start + frame.length_of(bar))}
