"""Playing to learn from: an idea of one or two bars in usual layers, repeated and varied, or a loose heap of strokes.

Repetition matters: the network hears every stroke among all strokes of the recording, so it may learn that grooves
repeat, and heaps teach it not to believe that blindly.
"""

from dataclasses import dataclass, field, replace

import numpy as np

from ghoststep.music.kit import HEARD_VOICES, VOICE_INDEX, VOICES

LENGTH_S = 9.0
_DRUMS = ("snare", "tom_high", "tom_mid", "tom_low")


@dataclass
class Strike:
    """One stroke; grace notes ahead of it and the bounces of a buzz belong to it and are no strikes of their own."""

    time_s: float
    voice: str
    velocity: int
    grace_leads_s: tuple[float, ...] = ()
    buzz: bool = False


@dataclass
class Playing:
    """Strikes in the order of time, and the player's clock: bar n lies at start_s + n * bar_s."""

    strikes: list[Strike]
    start_s: float = 0.0
    bar_s: float = 2.0
    steady: bool = False  # whether there is a beat at all


@dataclass
class _Style:
    """What holds throughout a playing."""

    per_beat: int
    bar: int
    ghosts: float
    main: str
    spread: float  # of velocities from stroke to stroke
    rng: np.random.Generator = field(repr=False)

    def velocity(self, low: float, high: float) -> int:
        return int(np.clip(self.rng.uniform(low, high), 6, 127))


Layer = list[tuple[int, str, int]]


def random_playing(rng: np.random.Generator, *, length_s: float = LENGTH_S, hard: bool = False) -> Playing:
    """A few bars of drumming: a groove most of the time, a loose heap of strokes sometimes; `hard` is full of ghosts
    under hats and kicks.
    """
    if rng.random() < (0.03 if hard else 0.10):
        return Playing(_heap(rng, length_s))
    beat_s = 60 / float(np.exp(rng.uniform(np.log(58), np.log(195))))
    style = _Style(
        per_beat=int(rng.choice([2, 4, 4, 4, 3, 6] if beat_s > 0.42 else [2, 2, 4, 3])),
        bar=int(rng.choice([4, 4, 4, 4, 3, 5, 7])),
        ghosts=rng.uniform(0.1, 0.5) if hard else rng.uniform(0, 0.35) if rng.random() < 0.65 else 0.0,
        main="cross_stick" if rng.random() < 0.18 else "snare",
        spread=float(np.exp(rng.uniform(np.log(1.5), np.log(10)))),
        rng=rng,
    )
    swing = rng.uniform(0, 0.34) if style.per_beat in (2, 4) and rng.random() < 0.4 else 0.0
    beats = int((length_s - 0.6) / beat_s)
    start = rng.uniform(0.02, 0.5)
    bend = rng.normal(0, 0.004) if rng.random() < 0.3 else 0.0
    strikes = []
    for step, voice, velocity in _tiled(style, beats):
        beat = (step + (swing if step % 2 else 0.0)) / style.per_beat
        loud = int(np.clip(velocity + rng.normal(0, style.spread), 5, 127))
        strikes.append(Strike(start + beat * beat_s * (1 + bend * beat / max(beats, 1)), voice, loud))
    _played(strikes, rng)
    strikes = [s for s in strikes if 0 <= s.time_s < length_s - 0.2]
    _ornamented(strikes, rng)
    return Playing(sorted(strikes, key=lambda s: s.time_s), start, beat_s * style.bar, True)


def few_drums(playing: Playing, rng: np.random.Generator) -> Playing:
    """The playing with one or two of its groups left, as on the track of one drum; all of it where that is nothing."""
    groups = sorted({VOICES[VOICE_INDEX[s.voice]].group for s in playing.strikes})
    if not groups:
        return playing
    left = rng.choice(groups, min(len(groups), int(rng.choice([1, 1, 2]))), replace=False)
    return replace(playing, strikes=[s for s in playing.strikes if VOICES[VOICE_INDEX[s.voice]].group in left])


def _tiled(style: _Style, beats: int) -> Layer:
    """An idea repeated to the end, with strokes left out and put in, fills, crashes."""
    rng = style.rng
    bars = int(rng.choice([1, 2, 2]))
    width = bars * style.bar * style.per_beat
    total = beats * style.per_beat
    idea = [*_hats(style, width), *_snares(style, width), *_kicks(style, width)]
    loose = rng.choice([0.0, 0.02, 0.06, 0.15])
    out: dict[tuple[int, str], int] = {}
    for offset in range(0, total, width):
        for step, voice, velocity in idea:
            if rng.random() >= loose:
                out[offset + step, voice] = velocity
    other = [*_snares(style, total), *_kicks(style, total)]
    for step, voice, velocity in other:
        if rng.random() < loose:
            out[step, voice] = velocity
    _filled(style, out, total)
    return [(step, voice, velocity) for (step, voice), velocity in out.items() if step < total]


def _filled(style: _Style, out: dict[tuple[int, str], int], total: int) -> None:
    rng, per_bar = style.rng, style.per_beat * style.bar
    if rng.random() < 0.45:
        for _ in range(int(rng.integers(1, 4))):
            start, length = int(rng.integers(total)), int(rng.integers(2, 2 * style.per_beat + 2))
            for step, voice in [k for k in out if start <= k[0] < start + length]:
                if voice not in ("kick", "hat_pedal") and rng.random() < 0.8:
                    del out[step, voice]
            for i in range(length):
                if rng.random() < 0.85:
                    drum = _DRUMS[min(3, i * 4 // length)] if rng.random() < 0.8 else str(rng.choice(_DRUMS))
                    out[start + i, drum] = style.velocity(45, 118)
    if rng.random() < 0.12:  # a groove on the toms
        drum = str(rng.choice(_DRUMS[1:]))
        for step in range(0, total):
            if rng.random() < 0.25:
                out[step, drum] = style.velocity(40, 112)
    if rng.random() < 0.5:
        for step in range(0, total, per_bar * int(rng.choice([1, 2, 4]))):
            if rng.random() < 0.7:
                out[step, str(rng.choice(["crash", "crash", "crash", "splash"]))] = style.velocity(70, 125)
                for top in ("hat_closed", "ride", "hat_open"):
                    if rng.random() < 0.8:
                        out.pop((step, top), None)
    if rng.random() < 0.05:
        for step in range(0, total, style.per_beat):
            out[step, "crash"] = style.velocity(60, 112)


def _hats(style: _Style, width: int) -> Layer:
    rng = style.rng
    tops = ["hat_closed"] * 5 + ["hat_half", "hat_open", "hat_open", "hat_open", "ride", "ride", "ride", "none"]
    top = str(rng.choice(tops))
    out: Layer = []
    if top != "none":
        every = int(rng.choice([1, 2, 2, style.per_beat]))
        loud, accents = rng.uniform(40, 108), rng.uniform(-25, 45)
        opens = rng.uniform(0, 0.5) if rng.random() < 0.6 else 0.0
        bells = rng.uniform(0, 0.25) if rng.random() < 0.4 else 0.0
        off = every > 1 and top == "hat_open" and rng.random() < 0.4
        uneven = rng.uniform(0, 12)
        for step in range(every // 2 if off else 0, width, every):
            if rng.random() < 0.07:
                continue
            voice = top
            if top == "hat_closed" and rng.random() < opens:
                voice = str(rng.choice(["hat_open", "hat_half"]))
            if top == "ride" and rng.random() < bells:
                voice = "ride_bell"
            weight = 0.0 if step % style.per_beat == 0 else -accents
            out.append((step, voice, int(np.clip(loud + weight + rng.normal(0, uneven), 8, 127))))
    if (top in ("ride", "none") and rng.random() < 0.75) or rng.random() < 0.08:
        phase, loud = int(rng.integers(2)), rng.uniform(35, 95)
        gap = style.per_beat * int(rng.choice([1, 2, 2]))
        out += [(s, "hat_pedal", style.velocity(loud - 6, loud + 6)) for s in range(phase * gap // 2, width, gap)]
    return out


def _snares(style: _Style, width: int) -> Layer:
    rng = style.rng
    back = int(rng.choice([1, 1, 1, 2]))
    loud = rng.uniform(75, 120)
    out: Layer = []
    for step in range(width):
        beat = step // style.per_beat % style.bar
        if step % style.per_beat == 0 and beat % 2 == back % 2 and rng.random() < 0.93:
            out.append((step, style.main, style.velocity(loud - 8, loud + 8)))
        elif rng.random() < style.ghosts:
            out.append((step, "snare", style.velocity(12, 48)))
        elif rng.random() < 0.04:
            out.append((step, style.main, style.velocity(45, 112)))
    return out


def _kicks(style: _Style, width: int) -> Layer:
    rng = style.rng
    chance, four = rng.uniform(0.03, 0.25), rng.random() < 0.2
    loud, soft = rng.uniform(70, 118), rng.uniform(0, 55)
    out: Layer = []
    for step in range(width):
        on_one = step % (style.per_beat * style.bar) == 0 or (four and step % style.per_beat == 0)
        if on_one or rng.random() < chance:
            away = 0.0 if on_one else rng.uniform(0, soft)
            out.append((step, "kick", style.velocity(loud - away - 8, loud - away + 8)))
    return out


def _played(strikes: list[Strike], rng: np.random.Generator) -> None:
    """Lean by voice, looseness by stroke, and now and then a limb that is far from the others."""
    lean = {voice: rng.normal(0, 0.007) for voice in sorted({s.voice for s in strikes})}
    loose = rng.uniform(0, 0.009)
    for s in strikes:
        s.time_s += lean[s.voice] + rng.normal(0, loose)


def _ornamented(strikes: list[Strike], rng: np.random.Generator) -> None:
    """Flams, drags and buzzes on snare and toms, in some playings."""
    flams = rng.uniform(0.02, 0.25) if rng.random() < 0.45 else 0.0
    buzzes = rng.uniform(0.02, 0.15) if rng.random() < 0.15 else 0.0
    for i, s in enumerate(strikes):
        if s.voice not in _DRUMS:
            continue
        if s.velocity > 50 and rng.random() < flams:
            gap = rng.uniform(0.014, 0.048)
            leads = (gap,) if rng.random() < 0.7 else (gap, gap * rng.uniform(1.7, 2.2))
            if s.time_s > leads[-1] + 0.01:
                strikes[i] = replace(s, grace_leads_s=leads)
        elif s.voice == "snare" and rng.random() < buzzes:
            strikes[i] = replace(s, buzz=True)


def _heap(rng: np.random.Generator, length_s: float) -> list[Strike]:
    """Hits at random, so that nothing is learned about which voices go together."""
    voices = [str(v) for v in rng.choice([v.name for v in HEARD_VOICES], 6, replace=False)]
    at, out = rng.uniform(0.05, 0.3), []
    while at < length_s - 0.3:
        for voice in rng.choice(voices, int(rng.choice([1, 1, 1, 2, 2, 3])), replace=False):
            out.append(Strike(at + rng.normal(0, 0.004), str(voice), int(rng.uniform(12, 124))))
        at += rng.uniform(0.07, 0.45)
    out = [s for s in out if s.time_s > 0]
    _ornamented(out, rng)
    return sorted(out, key=lambda s: s.time_s)
