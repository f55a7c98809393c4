"""Clips to learn from: random playing on a kit, in a room, through a recording chain; with the truth."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.signal import butter, fftconvolve, lfilter, sosfilt

from ghoststep.music.kit import VOICE_NAMES
from ghoststep.sound.room import room_response
from tools.training.kits import RATE, KitSamples

Mono = NDArray[np.float32]
_CHOKED = {"hat_open", "hat_half"}
_CHOKERS = {"hat_closed", "hat_half", "hat_open", "hat_pedal"}


@dataclass
class Strike:
    time_s: float
    voice: str
    velocity: int


def random_playing(rng: np.random.Generator, *, length_s: float = 6.5) -> list[Strike]:
    """A few bars of drumming: usual layers most of the time, loose heaps of hits sometimes."""
    if rng.random() < 0.12:
        return _heap(rng, length_s)
    beat_s = 60 / float(np.exp(rng.uniform(np.log(62), np.log(190))))
    per_beat = int(rng.choice([2, 4, 4, 4, 3, 6] if beat_s > 0.42 else [2, 2, 4, 3]))
    swing = rng.uniform(0, 0.34) if per_beat in (2, 4) and rng.random() < 0.4 else 0.0
    beats = int((length_s - 0.6) / beat_s)
    bar = int(rng.choice([4, 4, 4, 3, 5, 7]))
    strikes: list[Strike] = []
    ghosts = rng.uniform(0, 0.35) if rng.random() < 0.65 else 0.0
    for layer in (_hats, _snares, _kicks, _ornaments):
        for step, voice, velocity in layer(beats * per_beat, per_beat, bar, ghosts, rng):
            late = swing if step % 2 else 0.0
            strikes.append(Strike((step + late) * beat_s / per_beat, voice, velocity))
    lean = {voice: rng.normal(0, 0.006) for voice in {s.voice for s in strikes}}
    loose = rng.uniform(0, 0.009)
    start = rng.uniform(0.02, 0.5)
    for s in strikes:
        s.time_s += start + lean[s.voice] + rng.normal(0, loose)
    out = [s for s in strikes if 0 <= s.time_s < length_s - 0.2]
    out += _graces(out, rng)
    return sorted(out, key=lambda s: s.time_s)


def _velocity(rng: np.random.Generator, low: int, high: int) -> int:
    return int(np.clip(rng.uniform(low, high) + rng.normal(0, 4), 8, 127))


Layer = list[tuple[int, str, int]]


def _hats(steps: int, per_beat: int, bar: int, _ghosts: float, rng: np.random.Generator) -> Layer:
    top = str(
        rng.choice(
            ["hat_closed", "hat_closed", "hat_closed", "hat_half", "hat_open", "hat_open", "ride", "ride", "none"]
        )
    )
    every = int(rng.choice([1, 2, 2, per_beat])) if top != "none" else 1
    loud = rng.uniform(45, 105)
    accents = rng.uniform(0, 40)
    opens = rng.uniform(0, 0.5) if rng.random() < 0.6 else 0.0
    bells = rng.uniform(0, 0.25) if rng.random() < 0.4 else 0.0
    out: Layer = []
    for step in range(0, steps, every) if top != "none" else ():
        if rng.random() < 0.06:
            continue
        voice = top
        if top == "hat_closed" and rng.random() < opens:
            voice = str(rng.choice(["hat_open", "hat_half"]))
        if top == "ride" and rng.random() < bells:
            voice = "ride_bell"
        weight = 0.0 if step % per_beat == 0 else -accents
        out.append((step, voice, _velocity(rng, int(loud + weight) - 10, int(loud + weight) + 10)))
    if (top in ("ride", "none") and rng.random() < 0.75) or rng.random() < 0.06:
        phase = int(rng.integers(2))
        out += [(s, "hat_pedal", _velocity(rng, 40, 90)) for s in range(phase * per_beat, steps, 2 * per_beat)]
    return out


def _snares(steps: int, per_beat: int, bar: int, ghosts: float, rng: np.random.Generator) -> Layer:
    main = "cross_stick" if rng.random() < 0.18 else "snare"
    back = int(rng.choice([1, 1, 1, 2]))
    loud = rng.uniform(80, 118)
    out: Layer = []
    for step in range(steps):
        beat = step // per_beat % bar
        if step % per_beat == 0 and beat % 2 == back % 2 and rng.random() < 0.93:
            out.append((step, main, _velocity(rng, int(loud) - 10, int(loud) + 10)))
        elif rng.random() < ghosts:
            out.append((step, "snare", _velocity(rng, 16, 46)))
        elif rng.random() < 0.04:
            out.append((step, main, _velocity(rng, 50, 110)))
    return out


def _kicks(steps: int, per_beat: int, bar: int, _ghosts: float, rng: np.random.Generator) -> Layer:
    chance = rng.uniform(0.03, 0.25)
    four = rng.random() < 0.2
    loud = rng.uniform(70, 112)
    out: Layer = []
    for step in range(steps):
        on_one = step % (per_beat * bar) == 0 or (four and step % per_beat == 0)
        if on_one or rng.random() < chance:
            soft = rng.uniform(0, 35) if not on_one else 0
            out.append((step, "kick", _velocity(rng, int(loud - soft) - 10, int(loud - soft) + 10)))
    return out


def _ornaments(steps: int, per_beat: int, bar: int, _ghosts: float, rng: np.random.Generator) -> Layer:
    out: Layer = []
    toms = ["tom_high", "tom_mid", "tom_low"]
    if rng.random() < 0.45:  # fills
        for _ in range(int(rng.integers(1, 4))):
            start, length = int(rng.integers(steps)), int(rng.integers(2, 2 * per_beat + 2))
            for i in range(length):
                which = toms[min(2, i * 3 // length)] if rng.random() < 0.8 else str(rng.choice(toms))
                out.append((start + i, which, _velocity(rng, 50, 115)))
    if rng.random() < 0.12:  # tom groove
        low = str(rng.choice(toms))
        out += [(s, low, _velocity(rng, 45, 110)) for s in range(steps) if rng.random() < 0.3]
    if rng.random() < 0.5:
        for s in range(0, steps, per_beat * bar * int(rng.choice([1, 2]))):
            if rng.random() < 0.6:
                out.append((s, str(rng.choice(["crash", "crash", "splash"])), _velocity(rng, 70, 125)))
    if rng.random() < 0.05:
        out += [(s, "crash", _velocity(rng, 60, 110)) for s in range(0, steps, per_beat)]
    return [o for o in out if o[0] < steps]


def _graces(strikes: list[Strike], rng: np.random.Generator) -> list[Strike]:
    """Flams and drags ahead of some snare and tom strokes."""
    chance = 0.06 if rng.random() < 0.4 else 0.0
    out = []
    for s in strikes:
        if s.voice in ("snare", "tom_high", "tom_mid", "tom_low") and s.velocity > 55 and rng.random() < chance:
            gap = rng.uniform(0.018, 0.045)
            for i in range(1 if rng.random() < 0.7 else 2):
                at = s.time_s - gap * (i + 1)
                if at > 0:
                    out.append(Strike(at, s.voice, _velocity(rng, 20, 55)))
    return out


def _heap(rng: np.random.Generator, length_s: float) -> list[Strike]:
    """Hits at random, so that nothing is learned about which voices go together."""
    voices = [str(v) for v in rng.choice(VOICE_NAMES, 6, replace=False)]
    at, out = rng.uniform(0.05, 0.3), []
    while at < length_s - 0.3:
        for voice in rng.choice(voices, int(rng.choice([1, 1, 1, 2, 2, 3])), replace=False):
            out.append(Strike(at + rng.normal(0, 0.004), str(voice), _velocity(rng, 18, 120)))
        at += rng.uniform(0.07, 0.45)
    return sorted([s for s in out if s.time_s > 0], key=lambda s: s.time_s)


def render_clip(strikes: list[Strike], kit: KitSamples, rng: np.random.Generator, *, length_s: float = 6.5) -> Mono:
    """The strikes on the kit through room and recording chain; mono."""
    dry = np.zeros(round(length_s * RATE))
    stops = sorted(s.time_s for s in strikes if s.voice in _CHOKERS)
    for s in strikes:
        blow = _blow(kit[s.voice], s.velocity, rng)
        if s.voice in _CHOKED:
            following = next((t for t in stops if t > s.time_s + 0.002), None)
            if following is not None:
                keep = round((following - s.time_s) * RATE)
                blow = blow[: keep + 400] * np.interp(np.arange(min(len(blow), keep + 400)), [keep, keep + 400], [1, 0])
        start = round(s.time_s * RATE)
        blow = blow[: max(0, len(dry) - start)]
        dry[start : start + len(blow)] += blow
    return _recorded(dry, rng)


def _blow(layers: list[tuple[int, Mono]], velocity: int, rng: np.random.Generator) -> Mono:
    """The two layers around the velocity, blended by level; small changes of colour from hit to hit."""
    velocities = [v for v, _ in layers]
    at = float(np.interp(velocity, velocities, range(len(layers))))
    low, high = layers[int(at)], layers[min(int(at) + 1, len(layers) - 1)]
    if rng.random() < 0.5:
        share = at - int(at)
        source, reference = (high, high[0]) if rng.random() < share else (low, low[0])
    else:
        source = low if velocity - low[0] < high[0] - velocity else high
        reference = source[0]
    blow = source[1] * (velocity / reference) ** rng.uniform(1.6, 2.0) * 10 ** (rng.normal(0, 0.6) / 20)
    if rng.random() < 0.5:
        a = rng.uniform(-0.15, 0.15)
        blow = lfilter([1.0, a], [1.0], blow) / (1 + a)
    return np.asarray(blow, np.float32)


def _recorded(dry: NDArray[np.float64], rng: np.random.Generator) -> Mono:
    """Room, tone, compression, saturation, bleed, noise, band limit and level, each now and then."""
    out = dry / max(float(np.abs(dry).max()), 1e-6)
    if rng.random() < 0.65:
        response = room_response(rate=RATE, decay_s=float(rng.uniform(0.1, 1.1)), seed=int(rng.integers(2**31)))
        wet = fftconvolve(out, response[:, 0])[: len(out)]
        out = out + float(rng.uniform(0.03, 0.45)) * wet
    for _ in range(2):  # broad tone changes
        if rng.random() < 0.6:
            kind, hz = (
                ("lowpass", rng.uniform(80, 600)) if rng.random() < 0.5 else ("highpass", rng.uniform(2500, 9000))
            )
            out = out + rng.uniform(-0.65, 1.4) * sosfilt(butter(1, hz, kind, fs=RATE, output="sos"), out)
    out /= max(float(np.abs(out).max()), 1e-6)
    if rng.random() < 0.35:
        out = _compressed(out, rng)
    if rng.random() < 0.2:
        drive = rng.uniform(1.2, 4)
        out = np.tanh(drive * out) / np.tanh(drive)
    if rng.random() < 0.25:
        out = out + 10 ** (rng.uniform(-40, -16) / 20) * _bleed(len(out), rng)
    if rng.random() < 0.6:
        hiss = rng.standard_normal(len(out))
        if rng.random() < 0.5:
            hiss = lfilter([0.05], [1, -0.95], hiss) * 3
        out = out + 10 ** (rng.uniform(-85, -42) / 20) * hiss
    if rng.random() < 0.25:
        out = sosfilt(butter(6, rng.uniform(5000, 17000), fs=RATE, output="sos"), out)
    return np.asarray(out * 10 ** (rng.uniform(-24, 0) / 20), np.float32)


def _compressed(x: NDArray[np.float64], rng: np.random.Generator) -> NDArray[np.float64]:
    release = np.exp(-1 / (rng.uniform(0.03, 0.2) * RATE / 32))
    level = np.abs(x[: len(x) // 32 * 32]).reshape(-1, 32).max(axis=1)
    held, out = 0.0, np.empty(len(level))
    for i, value in enumerate(level):
        held = max(value, held * release)
        out[i] = held
    threshold, ratio = rng.uniform(0.05, 0.3), rng.uniform(1.5, 6)
    gain = np.where(out > threshold, (np.maximum(out, 1e-9) / threshold) ** (1 / ratio - 1), 1.0)
    smooth = np.interp(np.arange(len(x)), np.arange(len(gain)) * 32 + 40, gain)
    return np.asarray(x * smooth / max(float(np.abs(x * smooth).max()), 1e-6))


def _bleed(length: int, rng: np.random.Generator) -> NDArray[np.float64]:
    """Other instruments in the background: plucked or held notes of a few pitches."""
    out = np.zeros(length)
    root = rng.uniform(40, 220)
    at = 0
    while at < length:
        hold = round(rng.uniform(0.15, 1.2) * RATE)
        t = np.arange(min(hold, length - at)) / RATE
        hz = root * 2 ** (rng.choice([0, 2, 3, 5, 7, 10, 12, 15]) / 12)
        note = sum((0.6**k) * np.sin(2 * np.pi * hz * (k + 1) * t + rng.uniform(0, 6)) for k in range(6))
        envelope = np.exp(-t / rng.uniform(0.1, 1)) * (1 - np.exp(-t / rng.uniform(0.002, 0.05)))
        out[at : at + len(t)] += note * envelope
        at += round(hold * rng.uniform(0.4, 1.2))
    return out / max(float(np.abs(out).max()), 1e-6)
