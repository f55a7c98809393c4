"""Clips to learn from: strikes on a kit, in a room, through a recording chain."""

from itertools import pairwise
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray
from scipy.signal import butter, fftconvolve, lfilter, sosfilt

from ghoststep.sound.room import room_response
from tools.training.kits import RATE, KitSamples
from tools.training.playing import LENGTH_S, Strike

Mono = NDArray[np.float32]
_CHOKED = {"hat_open", "hat_half"}
_SHAKING = {"kick", "tom_high", "tom_mid", "tom_low"}  # what shakes the wires under the snare
_WIRES = butter(2, (1500, 8000), "bandpass", fs=RATE, output="sos")
_CHOKERS = {"hat_closed", "hat_half", "hat_open", "hat_pedal"}


class Clip(NamedTuple):
    """A sound; and of each strike the dB by which it stands over all else in its best octave, and how loud it is."""

    sound: Mono
    over_db: NDArray[np.float64]
    level_db: NDArray[np.float64]


def judged_clip(
    strikes: list[Strike], kit: KitSamples, rng: np.random.Generator, *, length_s: float = LENGTH_S, plain: bool = False
) -> Clip:
    """The strikes on the kit through room and recording chain, mono. `plain` is a small room and a little hiss.

    The decibels are taken on the dry sound: over all else from 10 to 60 ms after the attack, where what is under -6 dB
    in every octave nobody could hear; alone from the attack to 50 ms after it.
    """
    dry, blows = _dry(strikes, kit, rng, length_s)
    over_db = np.array([_over_db(dry, mine) for mine in blows])
    level_db = np.array([_level_db(mine) for mine in blows])
    return Clip(_plainly(dry, rng) if plain else _recorded(dry, rng), over_db, level_db)


Blows = list[tuple[int, Mono]]  # the first sample of each, and its sound


def _dry(
    strikes: list[Strike], kit: KitSamples, rng: np.random.Generator, length_s: float
) -> tuple[NDArray[np.float64], list[Blows]]:
    """The kit as played, with no room, and the blows of each strike."""
    dry = np.zeros(round(length_s * RATE))
    stops = sorted(s.time_s for s in strikes if s.voice in _CHOKERS)
    wires_db = rng.uniform(-46, -24) if rng.random() < 0.3 else None
    chokes = rng.random() < 0.2
    all_blows: list[Blows] = []
    for s in strikes:
        mine: Blows = []
        for time_s, velocity in _blows(s, rng):
            blow = _blow(kit[s.voice], velocity, rng)
            following = next((t for t in stops if t > s.time_s + 0.002), None) if s.voice in _CHOKED else None
            if s.voice == "crash" and chokes and rng.random() < 0.5:
                following = s.time_s + rng.uniform(0.08, 0.5)
            if following is not None:
                keep, fade = round((following - s.time_s) * RATE), round(rng.uniform(0.004, 0.03) * RATE)
                blow = blow[: keep + fade]
                blow = (blow * np.interp(np.arange(len(blow)), [keep, keep + fade], [1, 0])).astype(np.float32)
            if wires_db is not None and s.voice in _SHAKING:
                blow = _with_wires(blow, wires_db, rng)
            start = round(time_s * RATE)
            blow = blow[: max(0, len(dry) - start)]
            dry[start : start + len(blow)] += blow
            mine.append((start, blow))
        all_blows.append(mine)
    return dry, all_blows


def _with_wires(blow: Mono, level_db: float, rng: np.random.Generator) -> Mono:
    """The blow of another drum with the wires under the snare that it shakes."""
    length = min(len(blow), round(0.3 * RATE))
    t = np.arange(length) / RATE
    noise = (
        sosfilt(_WIRES, rng.standard_normal(length)) * np.exp(-t / rng.uniform(0.03, 0.12)) * (1 - np.exp(-t / 0.004))
    )
    out = blow.copy()
    out[:length] += (10 ** (level_db / 20) * float(np.abs(blow).max(initial=0.0)) * noise).astype(np.float32)
    return out


_EARLY_S, _LATE_S, _LEVEL_S = 0.010, 0.060, 0.050
_OCTAVES_HZ = 88.0 * 2.0 ** np.arange(9)


def _level_db(blows: Blows) -> float:
    first = round(_LEVEL_S * RATE)
    return float(10 * np.log10(sum(np.square(blow[:first], dtype=float).sum() for _, blow in blows) + 1e-12))


def _over_db(dry: NDArray[np.float64], blows: Blows) -> float:
    if not blows:
        return -np.inf
    a, b = blows[0][0] + round(_EARLY_S * RATE), min(blows[0][0] + round(_LATE_S * RATE), len(dry))
    if b - a < 256:
        return -np.inf
    own = np.zeros(b - a)
    for start, blow in blows:
        part = blow[max(0, a - start) : max(0, b - start)]
        at = max(0, start - a)
        own[at : at + len(part)] += part[: len(own) - at]
    window = np.hanning(b - a)
    mine, rest = (np.abs(np.fft.rfft(x * window, 4096)) ** 2 for x in (own, dry[a:b] - own))
    edges = np.searchsorted(np.fft.rfftfreq(4096, 1 / RATE), _OCTAVES_HZ)
    floor = 1e-7 * (b - a)
    return float(max(10 * np.log10((mine[i:j].sum() + 1e-12) / (rest[i:j].sum() + floor)) for i, j in pairwise(edges)))


def _plainly(dry: NDArray[np.float64], rng: np.random.Generator) -> Mono:
    response = room_response(rate=RATE, decay_s=float(rng.uniform(0.15, 0.6)), seed=int(rng.integers(2**31)))
    out = dry + float(rng.uniform(0.03, 0.2)) * fftconvolve(dry, response[:, 0])[: len(dry)]
    out /= max(float(np.abs(out).max()), 1e-6)
    return np.asarray(0.7 * (out + 10 ** (rng.uniform(-75, -55) / 20) * rng.standard_normal(len(out))), np.float32)


def _blows(strike: Strike, rng: np.random.Generator) -> list[tuple[float, int]]:
    """When and how hard the stick meets the head in one stroke with its ornaments."""
    out = [(strike.time_s, strike.velocity)]
    for lead_s in strike.grace_leads_s:
        out.append((strike.time_s - lead_s, int(np.clip(strike.velocity * rng.uniform(0.2, 0.55), 8, 60))))
    if strike.buzz:
        at, gap, loud = strike.time_s, rng.uniform(0.026, 0.042), float(strike.velocity)
        for _ in range(int(rng.integers(4, 9))):
            at, gap, loud = at + gap, gap * rng.uniform(0.84, 0.97), loud * rng.uniform(0.65, 0.88)
            if loud > 6:
                out.append((at, int(loud)))
    return [(t, v) for t, v in out if t > 0]


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
        out = out + 10 ** (rng.uniform(-40, -6) / 20) * _bleed(len(out), rng)
    if rng.random() < 0.22:
        out = out + 10 ** (rng.uniform(-38, -14) / 20) * _ambience(len(out), rng)
    if rng.random() < 0.6:
        hiss = rng.standard_normal(len(out))
        if rng.random() < 0.5:
            hiss = lfilter([0.05], [1, -0.95], hiss) * 3
        out = out + 10 ** (rng.uniform(-85, -36) / 20) * hiss
    if rng.random() < 0.25:
        out = sosfilt(butter(6, np.exp(rng.uniform(np.log(3400), np.log(17000))), fs=RATE, output="sos"), out)
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
        envelope = np.exp(-t / rng.uniform(0.1, 1)) * (1 - np.exp(-t / rng.choice([0.0007, rng.uniform(0.002, 0.05)])))
        out[at : at + len(t)] += note * envelope
        at += round(hold * rng.uniform(0.4, 1.2))
    return out / max(float(np.abs(out).max()), 1e-6)


def _ambience(length: int, rng: np.random.Generator) -> NDArray[np.float64]:
    """What goes on around a kit and is no drum: steps, voices, clanks, a rumble that swells."""
    out = np.zeros(length)
    for _ in range(int(rng.integers(2, 24))):
        low = float(np.exp(rng.uniform(np.log(120), np.log(5000))))
        size = round(rng.uniform(0.03, 0.5) * RATE)
        t = np.arange(size) / RATE
        attack, decay = (
            np.exp(rng.uniform(np.log(0.0008), np.log(0.08))),
            np.exp(rng.uniform(np.log(0.01), np.log(0.25))),
        )
        envelope = (1 - np.exp(-t / attack)) * np.exp(-t / decay)
        if rng.random() < 0.6:
            band = butter(2, (low, min(low * rng.uniform(1.2, 6), 16000)), "bandpass", fs=RATE, output="sos")
            event = sosfilt(band, rng.standard_normal(size)) * 3
        else:
            partials = low * np.sort(rng.uniform(1, 5, 3))
            event = np.sin(2 * np.pi * np.outer(np.minimum(partials, 18000), t)).sum(axis=0) / 3
        start = int(rng.integers(0, length))
        piece = (event * envelope * rng.uniform(0.1, 1))[: length - start]
        out[start : start + len(piece)] += piece
    if rng.random() < 0.5:
        rumble = lfilter([0.02], [1, -0.98], rng.standard_normal(length)) * 4
        out += (
            rng.uniform(0.05, 0.5)
            * rumble
            * (1 + np.sin(2 * np.pi * rng.uniform(0.05, 0.5) * np.arange(length) / RATE))
        )
    return out / max(float(np.abs(out).max()), 1e-6)
