"""Kits to learn from: random synthesised ones, and sampled ones rendered note by note from a free General MIDI bank.

A kit here is samples[voice] = list of (velocity, mono sound), softest first.
"""

import subprocess
import tempfile
from dataclasses import replace
from pathlib import Path

import mido
import numpy as np
import soundfile
from numpy.typing import NDArray

from ghoststep.music.kit import VOICE_NAMES
from ghoststep.sound.recipe import NIGHT_TRAM_KIT, Metal, Noise, Recipe, Tone
from ghoststep.sound.strike import strike

RATE = 44100
Mono = NDArray[np.float32]
KitSamples = dict[str, list[tuple[int, Mono]]]
# Free General MIDI banks from Debian packages, and the programs that hold drum kits in them.
BANKS = {
    "fluid": Path("/usr/share/sounds/sf2/FluidR3_GM.sf2"),  # fluid-soundfont-gm, MIT licence
    "general": Path("/usr/share/sounds/sf3/MuseScore_General_Lite.sf3"),  # musescore-general-soundfont-small, MIT
}
PACKAGES = (
    "fluidsynth",
    "fluid-soundfont-gm",
    "musescore-general-soundfont-small",
    "opl3-soundfont",
    "csound-soundfont",
)
TRAINED = (
    *(("fluid", p) for p in (0, 16, 24, 25, 32)),
    *(("general", p) for p in (0, 16, 24, 25, 40)),
)  # fmt: skip
# Never trained on, for measuring.
KEPT_BACK = (("fluid", 8), ("fluid", 40), ("general", 8), ("general", 32))
_KEYS = {
    "kick": (36, 35), "snare": (38, 40), "cross_stick": (37,), "hat_closed": (42,), "hat_half": (46,),
    "hat_open": (46,), "hat_pedal": (44,), "tom_high": (50, 48), "tom_mid": (47, 45), "tom_low": (43, 41),
    "ride": (51, 59), "ride_bell": (53,), "crash": (49, 57), "splash": (55,),
}  # fmt: skip
_STYLES = ("acoustic", "acoustic", "acoustic", "electronic", "brushed", "lofi")


def random_kit(rng: np.random.Generator, sampled: list[KitSamples] | None = None) -> KitSamples:
    """A synthesised kit of a random style with everything varied; some voices may come from sampled kits."""
    style = str(rng.choice(_STYLES))
    size = float(np.exp(rng.normal(0, 0.12)))
    shared = {group: _factors(rng) for group in ("hat", "tom", "ride", "drum")}
    kit: KitSamples = {}
    for voice in VOICE_NAMES:
        if sampled and rng.random() < 0.2:
            kit[voice] = sampled[int(rng.integers(len(sampled)))][voice]
            continue
        recipe = _varied(voice, NIGHT_TRAM_KIT[voice], style, size, shared, rng)
        seed = int(rng.integers(2**31))
        level = 10 ** ((recipe.level_db + rng.normal(0, 3.5)) / 20)
        bend = rng.uniform(0.55, 1.1)  # how steeply level follows velocity
        layers = []
        for velocity in (20, 50, 85, 120):
            sound = strike(recipe, velocity / 127, rate=RATE, seed=seed)
            sound *= level * (velocity / 127) ** (2 * bend - 2)
            layers.append((velocity, sound.astype(np.float32)))
        kit[voice] = layers
    return kit


def _factors(rng: np.random.Generator) -> tuple[float, float]:
    """Factors of pitch and decay shared by voices of one family."""
    return float(np.exp(rng.normal(0, 0.18))), float(np.exp(rng.normal(0, 0.35)))


def _varied(
    voice: str,
    recipe: Recipe,
    style: str,
    size: float,
    shared: dict[str, tuple[float, float]],
    rng: np.random.Generator,
) -> Recipe:
    family = next((g for g in ("hat", "tom", "ride") if voice.startswith(g)), "drum")
    pitch, decay = shared[family]
    pitch *= size * float(np.exp(rng.normal(0, 0.07)))
    decay *= float(np.exp(rng.normal(0, 0.2)))
    parts: list[Tone | Noise | Metal] = []
    for part in recipe.parts:
        if len(recipe.parts) > 2 and rng.random() < 0.12:
            continue
        # Cymbals differ most from kit to kit: some hiss, some ring.
        wide = 0.9 if family in ("hat", "ride") or voice in ("crash", "splash") else 0.5
        gain = part.gain * float(np.exp(rng.normal(0, wide)))
        ring = part.decay_s * decay * float(np.exp(rng.normal(0, 0.25)))
        hard = part.hardness + rng.uniform(-0.1, 0.5)
        if isinstance(part, Tone):
            sweep = part.sweep * float(np.exp(rng.normal(0, 0.5)))
            parts.append(
                replace(part, hz=part.hz * pitch, gain=gain, decay_s=ring, sweep=sweep, hardness=max(0.0, hard))
            )
        elif isinstance(part, Noise):
            spread = np.sort(np.array([part.low_hz, part.high_hz]) * np.exp(rng.normal(0, 0.25, 2)))
            low, high = float(spread[0]), float(max(spread[1], spread[0] * 1.3))
            parts.append(replace(part, low_hz=low, high_hz=high, gain=gain, decay_s=ring, hardness=max(0.0, hard)))
        else:
            count = max(4, round(part.partials * rng.uniform(0.4, 1.2)))
            low, high = (
                part.low_hz * float(np.exp(rng.normal(0, 0.25))),
                part.high_hz * float(np.exp(rng.normal(0, 0.1))),
            )
            parts.append(replace(part, low_hz=low, high_hz=high, partials=count, gain=gain, decay_s=ring))
    parts = _styled(voice, style, parts, rng)
    length = float(np.clip(recipe.length_s * decay * 1.5, 0.1, 3.0))
    return replace(recipe, parts=tuple(parts), length_s=length, drive=recipe.drive * float(rng.uniform(0.2, 2.5)))


def _styled(
    voice: str, style: str, parts: list[Tone | Noise | Metal], rng: np.random.Generator
) -> list[Tone | Noise | Metal]:
    if style == "electronic":
        if voice == "kick":
            hz, long = rng.uniform(40, 65), rng.uniform(0.1, 0.5)
            click = Noise(1500, 9000, rng.uniform(0, 0.3), 0.003)
            return [Tone(hz, 1.0, long, sweep=rng.uniform(0.5, 6), sweep_s=rng.uniform(0.006, 0.04)), click]
        if voice == "snare" and rng.random() < 0.6:  # a clap: bursts of noise
            return [Noise(700, 6000, 0.8, rng.uniform(0.05, 0.15), attack_s=0.004), Noise(900, 4000, 0.6, 0.008)]
        if voice.startswith("hat") and rng.random() < 0.7:
            return [replace(p, partials=int(rng.integers(5, 10))) if isinstance(p, Metal) else p for p in parts]
        if voice.startswith("tom"):
            return [p for p in parts if isinstance(p, Tone)][:1] or parts
    if style == "brushed" and voice == "snare":
        sweep = Noise(
            rng.uniform(700, 2500), rng.uniform(6000, 13000), 0.6, rng.uniform(0.05, 0.16), rng.uniform(0.003, 0.015)
        )
        return [sweep, *[replace(p, gain=p.gain * 0.3) for p in parts]]
    return parts


def sampled_kit(bank: str, program: int, *, cache: Path) -> KitSamples:
    """The kit of one program of a bank, rendered once with the fluidsynth command and kept in `cache`."""
    file = cache / f"{bank}-{program}.npz"
    if not file.exists():
        cache.mkdir(parents=True, exist_ok=True)
        _render_bank(BANKS[bank], program, file)
    with np.load(file) as stored:
        kit: KitSamples = {}
        for name in stored.files:
            voice, velocity, _ = name.rsplit("-", 2)
            kit.setdefault(voice, []).append((int(velocity), stored[name]))
    return {voice: _one_key(sorted(layers, key=lambda x: x[0])) for voice, layers in kit.items()}


def _one_key(layers: list[tuple[int, Mono]]) -> list[tuple[int, Mono]]:
    """Where a voice was rendered from two keys, the louder of the two at each velocity."""
    best: dict[int, Mono] = {}
    for velocity, sound in layers:
        if velocity not in best or (sound**2).sum() > (best[velocity] ** 2).sum():
            best[velocity] = sound
    return sorted(best.items())


def _render_bank(bank: Path, program: int, file: Path) -> None:
    gap_s, notes = 3.0, []
    midi = mido.MidiFile(ticks_per_beat=480)
    track = mido.MidiTrack([mido.Message("program_change", channel=9, program=program)])
    midi.tracks.append(track)
    for voice, keys in _KEYS.items():
        for key in keys:
            for velocity in (18, 40, 62, 84, 106, 127):
                notes.append((voice, velocity, key))
                track.append(mido.Message("note_on", channel=9, note=key, velocity=velocity, time=0))
                track.append(mido.Message("note_off", channel=9, note=key, time=round(gap_s * 960)))
                # All sound off, so that no cymbal rings into the next note.
                track.append(mido.Message("control_change", channel=9, control=120, value=0, time=0))
    with tempfile.TemporaryDirectory() as folder:
        source, target = Path(folder) / "notes.mid", Path(folder) / "notes.wav"
        midi.save(source)
        command = [
            "fluidsynth",
            "-ni",
            "-R",
            "0",
            "-C",
            "0",
            "-g",
            "0.7",
            "-r",
            str(RATE),
            "-F",
            str(target),
            str(bank),
            str(source),
        ]
        subprocess.run(command, check=True, capture_output=True)
        sound = soundfile.read(target, dtype="float32")[0].mean(axis=1)
    length = round(gap_s * RATE)
    stored = {}
    for i, (voice, velocity, key) in enumerate(notes):
        one = sound[i * length : (i + 1) * length]
        loud = np.flatnonzero(np.abs(one) > 1e-4)
        stored[f"{voice}-{velocity}-{key}"] = one[_attack(one) : (loud[-1] + 1 if len(loud) else 1)]
    np.savez(file, **stored)


def _attack(sound: Mono) -> int:
    """Where the sound begins, half a millisecond ahead of the first sample above a tenth of the peak.

    Banks differ in how long a sample waits before it speaks; the moment to be learned is the attack that is heard.
    """
    peak = float(np.abs(sound[: RATE // 10]).max())
    first = int(np.argmax(np.abs(sound) > 0.1 * peak)) if peak else 0
    return max(0, first - RATE // 2000)


def mixed_kit(kits: list[KitSamples], rng: np.random.Generator) -> KitSamples:
    """A sampled kit made new: voices drawn from several kits, each retuned, re-levelled and damped."""
    home = kits[int(rng.integers(len(kits)))]
    out: KitSamples = {}
    for voice in VOICE_NAMES:
        source = home if rng.random() < 0.7 else kits[int(rng.integers(len(kits)))]
        layers = source[voice]
        ratio = float(np.exp(rng.normal(0, 0.1)))
        level = 10 ** (rng.normal(0, 3) / 20)
        damp = rng.uniform(0.05, 2.0)
        out[voice] = [(v, _retuned(s, ratio, level, damp)) for v, s in layers]
        if voice == "hat_half":
            out[voice] = [(v, _retuned(s, 1.0, 1.0, rng.uniform(0.04, 0.12))) for v, s in out[voice]]
    return out


def _retuned(sound: Mono, ratio: float, level: float, damp_s: float) -> Mono:
    at = np.arange(0, len(sound) - 1, ratio)
    moved = np.interp(at, np.arange(len(sound)), sound)
    out: Mono = (level * moved * np.exp(-np.arange(len(at)) / RATE / damp_s)).astype(np.float32)
    return out
