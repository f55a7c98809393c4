"""Kits to learn from: random synthesised ones, and sampled ones rendered note by note from a free General MIDI bank.

A kit here is samples[voice] = list of (velocity, mono sound), softest first.
"""

import subprocess
import tempfile
from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from pathlib import Path
from typing import Any, NamedTuple

import mido
import numpy as np
import soundfile
from numpy.typing import NDArray
from scipy.signal import butter, sosfilt

from ghoststep.music.kit import HEARD_VOICES
from ghoststep.sound.recipe import NIGHT_TRAM_KIT, Metal, Noise, Recipe, Tone
from ghoststep.sound.strike import strike

HEARD_NAMES = tuple(v.name for v in HEARD_VOICES)

RATE = 44100
Mono = NDArray[np.float32]
Layers = list[tuple[int, Mono]]
KitSamples = dict[str, Layers]
# Free General MIDI banks from Debian packages, and the programs that hold drum kits in them.
BANKS = {
    "fluid": Path("/usr/share/sounds/sf2/FluidR3_GM.sf2"),  # fluid-soundfont-gm, MIT licence
    "general": Path("/usr/share/sounds/sf3/MuseScore_General_Lite.sf3"),  # musescore-general-soundfont-small, MIT
    "small": Path("/usr/share/sounds/sf2/sf_GMbank.sf2"),  # csound-soundfont, LGPL: for measuring only
    "six": Path("/usr/share/sounds/sf2/TimGM6mb.sf2"),  # timgm6mb-soundfont, GPL: for measuring only
    "chip": Path("/usr/share/sounds/sf2/OPL-3_FM_128M.sf2"),  # opl3-soundfont, CC-BY-SA: for measuring only
}
# Bank, program, and which of two keys (two kicks, two snares ...) where the program has both.
TRAINED = tuple(
    (bank, program, key) for bank in ("fluid", "general") for program in (0, 8, 16, 24, 25, 32, 40) for key in (0, 1)
)
# Never trained on, for measuring: banks of other makers.
KEPT_BACK = (("small", 0, 0), ("small", 0, 1), ("chip", 0, 0), ("chip", 0, 1))
OTHERS = (("six", 0, 0), ("six", 0, 1))  # the same, as they are
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
    one_pair, hats_db, hats_shape = rng.random() < 0.6, rng.normal(0, 3.0), _maybe_shape("hat", 0.5, rng)
    for voice in HEARD_NAMES:
        if sampled and rng.random() < 0.2:
            kit[voice] = sampled[int(rng.integers(len(sampled)))][voice]
            continue
        recipe = _varied(voice, NIGHT_TRAM_KIT[voice], style, size, shared, rng)
        seed = int(rng.integers(2**31))
        own_db = hats_db + rng.normal(0, 1.2) if one_pair and voice.startswith("hat") else rng.normal(0, 3.5)
        level = 10 ** ((recipe.level_db + own_db) / 20)
        bend = rng.uniform(0.55, 1.1)  # how steeply level follows velocity
        layers = []
        for velocity in (20, 50, 85, 120):
            sound = strike(recipe, velocity / 127, rate=RATE, seed=seed)
            sound *= level * (velocity / 127) ** (2 * bend - 2)
            layers.append((velocity, sound.astype(np.float32)))
        shape = hats_shape if voice.startswith("hat") and one_pair else _maybe_shape(voice, 0.5, rng)
        kit[voice] = [(velocity, reshaped(sound, shape)) for velocity, sound in layers]
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
            for part in parts:
                if isinstance(part, Tone):
                    return [part]
            return parts
    if style == "brushed" and voice == "snare":
        sweep = Noise(
            rng.uniform(700, 2500), rng.uniform(6000, 13000), 0.6, rng.uniform(0.05, 0.16), rng.uniform(0.003, 0.015)
        )
        return [sweep, *[replace(p, gain=p.gain * 0.3) for p in parts]]
    return parts


def sampled_kit(bank: str, program: int, key: int = 0, *, cache: Path) -> KitSamples:
    """The kit of one program of a bank, rendered once with the fluidsynth command and kept in `cache`.

    `key` 1 takes the second sound of a voice where the bank has two (a second kick, snare or crash).
    """
    file = cache / f"{bank}-{program}.npz"
    if not file.exists():
        _render_bank(BANKS[bank], program, file)
    found: dict[str, dict[str, Layers]] = {}
    with np.load(file) as stored:
        for name in stored.files:
            voice, velocity, number = name.rsplit("-", 2)
            if float(np.abs(stored[name]).max()) > 1e-3:
                found.setdefault(voice, {}).setdefault(number, []).append((int(velocity), stored[name]))
    kit: KitSamples = {}
    for voice, keys in _KEYS.items():
        wanted = str(keys[min(key, len(keys) - 1)])
        sounds = found.get(voice, {})
        kit[voice] = sorted(sounds.get(wanted) or next(iter(sounds.values()), []), key=lambda x: x[0])
    missing = [voice for voice, layers in kit.items() if not layers]
    if missing:
        raise ValueError(f"program {program} of bank {bank} is silent for {', '.join(missing)}")
    return kit


def _render_bank(bank: Path, program: int, file: Path) -> None:
    notes = {
        f"{voice}-{velocity}-{key}": Note(9, program, key, velocity)
        for voice, keys in _KEYS.items()
        for key in keys
        for velocity in (18, 40, 62, 84, 106, 127)
    }
    render_notes(bank, notes, file, each_s=3.0)


class Note(NamedTuple):
    """A note of General MIDI; channel 9, counted from 0, is that of drums."""

    channel: int
    program: int
    key: int
    velocity: int


def render_notes(bank: Path, notes: dict[str, Note], file: Path, *, each_s: float) -> None:
    """Render each note of a bank alone, dry, from its attack on, and keep it in `file` under its name; mono at RATE.

    Raises
    ------
    CalledProcessError, FileNotFoundError
        Where the fluidsynth command fails or is missing.
    """
    midi = mido.MidiFile(ticks_per_beat=480)
    track = mido.MidiTrack()
    midi.tracks.append(track)
    for channel, program, key, velocity in notes.values():
        track.append(mido.Message("program_change", channel=channel, program=program))
        track.append(mido.Message("note_on", channel=channel, note=key, velocity=velocity, time=0))
        track.append(mido.Message("note_off", channel=channel, note=key, time=round(each_s * 960)))
        # All sound off, so that no cymbal rings into the next note.
        track.append(mido.Message("control_change", channel=channel, control=120, value=0, time=0))
    with tempfile.TemporaryDirectory() as folder:
        source, target = Path(folder) / "notes.mid", Path(folder) / "notes.wav"
        midi.save(source)
        plain = ["-ni", "-R", "0", "-C", "0", "-g", "0.7", "-r", str(RATE)]
        subprocess.run(["fluidsynth", *plain, "-F", target, bank, source], check=True, capture_output=True)
        sound = soundfile.read(target, dtype="float32")[0].mean(axis=1)
    length = round(each_s * RATE)
    stored: dict[str, Any] = {}
    for i, name in enumerate(notes):
        one = sound[i * length : (i + 1) * length]
        loud = np.flatnonzero(np.abs(one) > 1e-4)
        stored[name] = one[attack(one) : (loud[-1] + 1 if len(loud) else 1)]
    file.parent.mkdir(parents=True, exist_ok=True)
    np.savez(file, **stored)


def attack(sound: Mono) -> int:
    """Where the sound begins, half a millisecond ahead of the first sample above a tenth of the peak.

    Banks differ in how long a sample waits before it speaks; the moment to be learned is the attack that is heard.
    """
    peak = float(np.abs(sound[: RATE // 10]).max())
    first = int(np.argmax(np.abs(sound) > 0.1 * peak)) if peak else 0
    return max(0, first - RATE // 2000)


_RINGS_S = {"hat_open": 0.25, "ride": 0.6, "ride_bell": 0.6, "crash": 0.5, "splash": 0.25}


@dataclass(frozen=True)
class Mixing:
    """How far a kit put together from others is from any of them; shares are chances of 0 to 1."""

    loyal: tuple[float, ...] = (1.0, 0.7, 0.3)  # shares of voices that come from one kit, one of them for each kit
    retuned: float = 1.0  # spread of pitch against the usual one
    one_pair: float = 0.6  # share of kits whose hats are one instrument
    dull: float = 0.15  # share of families of metal that are of another kind altogether
    stacked: float = 0.2  # share of voices that are two samples
    shaped: float = 0.7  # share of voices with resonances and another attack
    shortest_s: Mapping[str, float] = field(default_factory=dict)  # of the damping by voice, where it is not 0.08


USUAL = Mixing()
RINGING = Mixing(shortest_s=_RINGS_S)  # open hats and cymbals ring on, and are not damped to the length of a closed hat
NATURAL = Mixing((1.0, 1.0, 0.7), retuned=0.4, one_pair=1.0, dull=0.0, stacked=0.0, shaped=0.35, shortest_s=_RINGS_S)


def mixed_kit(kits: list[KitSamples], rng: np.random.Generator, mixing: Mixing = USUAL) -> KitSamples:
    """A sampled kit made new: voices drawn from several kits, layered, retuned, damped, filtered and re-levelled."""
    home = kits[int(rng.integers(len(kits)))]
    loyal = rng.choice(mixing.loyal)
    shared = {family: float(np.exp(rng.normal(0, 0.10 * mixing.retuned))) for family in ("hat", "tom", "ride", "")}
    # A pair of hats is one instrument: its strokes come from one source, one colour and nearly one level.
    one_pair = rng.random() < mixing.one_pair
    hats, hats_db = kits[int(rng.integers(len(kits)))], rng.normal(0, 3.0)
    hats_shape = _maybe_shape("hat", mixing.shaped, rng)
    # Now and then the metal is of another kind altogether: slow, dark samples as old machines have them.
    dull = {family: float(rng.uniform(0.45, 0.8)) for family in ("hat", "ride") if rng.random() < mixing.dull}
    out: KitSamples = {}
    for voice in HEARD_NAMES:
        source = home if rng.random() < loyal else kits[int(rng.integers(len(kits)))]
        paired = one_pair and voice.startswith("hat")
        layers = (hats if paired else source)[voice]
        if rng.random() < mixing.stacked and not paired:
            layers = _layered(layers, kits[int(rng.integers(len(kits)))][voice], rng)
        family = next((f for f in ("hat", "tom", "ride") if voice.startswith(f)), "")
        ratio = shared[family] * float(np.exp(rng.normal(0, 0.06 * mixing.retuned)))
        if family in dull:
            ratio *= dull[family]
        level = 10 ** ((hats_db + rng.normal(0, 1.2) if paired else rng.normal(0, 3.5)) / 20)
        damp = float(np.exp(rng.uniform(np.log(mixing.shortest_s.get(voice, 0.08)), np.log(3.0))))
        if voice == "hat_half":
            damp = float(np.exp(rng.uniform(np.log(0.03), np.log(0.3))))
        shape = hats_shape if paired else _maybe_shape(voice, mixing.shaped, rng)
        bend = rng.uniform(0.75, 1.15)  # how steeply level follows velocity, against the bank's own curve
        out[voice] = [
            (v, reshaped(retuned(s, ratio, level * (v / 127) ** (2 * bend - 2), damp), shape)) for v, s in layers
        ]
    return out


def _layered(one: list[tuple[int, Mono]], other: list[tuple[int, Mono]], rng: np.random.Generator) -> Layers:
    """Two drums struck as one, as producers stack samples."""
    share = rng.uniform(0.2, 0.8)
    out = []
    for (velocity, a), (_, b) in zip(one, other, strict=False):
        sound = np.zeros(max(len(a), len(b)), np.float32)
        sound[: len(a)] += (1 - share) * a
        sound[: len(b)] += share * b
        out.append((velocity, sound))
    return out or one


def layered_apart(kit: KitSamples, rng: np.random.Generator) -> KitSamples:
    """The kit with layers that differ in more than level, as recorded kits have them.

    Each layer gets a colour and a decay of its own, most of all of hats and cymbals, and the two halves of half-open
    hats may meet a second time.
    """
    out: KitSamples = {}
    for voice, layers in kit.items():
        metal = voice.startswith(("hat", "ride")) or voice in ("crash", "splash")
        apart = rng.uniform(0.3, 1.0) if rng.random() < (0.7 if metal else 0.4) else 0.0
        changed = []
        for velocity, sound in layers:
            if apart:
                gains = [
                    (float(np.exp(rng.uniform(np.log(150), np.log(12000)))), rng.normal(0, 5 * apart)) for _ in "12"
                ]
                sound = reshaped(sound, ([_peaking(hz, db, q=rng.uniform(0.4, 1.5)) for hz, db in gains], 0.0))
                damp = float(np.exp(rng.uniform(np.log(0.15), np.log(3.0)))) / apart
                sound = (sound * np.exp(-np.arange(len(sound)) / RATE / damp)).astype(np.float32)
            changed.append((velocity, sound))
        out[voice] = changed
    if rng.random() < 0.35:
        lag = round(rng.uniform(0.05, 0.13) * RATE)
        share = 10 ** (rng.uniform(-22, -8) / 20)
        for voice in ("hat_half", "hat_pedal") if rng.random() < 0.7 else ("hat_open",):
            out[voice] = [(velocity, _met_again(sound, lag, share)) for velocity, sound in out[voice]]
    return out


def _met_again(sound: Mono, lag: int, share: float) -> Mono:
    out = np.zeros(max(len(sound), lag + RATE // 10), np.float32)
    out[: len(sound)] = sound
    again = share * sound[: len(out) - lag] * np.exp(-np.arange(min(len(sound), len(out) - lag)) / (0.03 * RATE))
    out[lag : lag + len(again)] += again.astype(np.float32)
    return out


def slow_metal(kit: KitSamples, rng: np.random.Generator) -> KitSamples:
    """The kit with hats, or cymbals, or both, that speak slowly, as soft samples of old banks do."""
    hats, cymbals = ((True, True), (True, False), (False, True))[int(rng.integers(3))]
    out = dict(kit)
    for voice, layers in kit.items():
        if (voice.startswith("hat") and hats) or (voice in ("ride", "ride_bell", "crash", "splash") and cymbals):
            rise_s = float(np.exp(rng.uniform(np.log(0.0005), np.log(0.006))))
            out[voice] = [
                (velocity, (sound * (1 - np.exp(-np.arange(len(sound)) / (rise_s * RATE)))).astype(np.float32))
                for velocity, sound in layers
            ]
    return out


Shape = tuple[list[np.ndarray], float]


def _darkness(voice: str, rng: np.random.Generator) -> bool:
    """Whether a voice loses its top; hats and cymbals differ most from kit to kit."""
    metal = voice.startswith(("hat", "ride")) or voice in ("crash", "splash")
    return bool(rng.random() < (0.35 if metal else 0.15))


def _maybe_shape(voice: str, chance: float, rng: np.random.Generator) -> Shape | None:
    return reshaping(rng, dark=_darkness(voice, rng)) if rng.random() < chance else None


def reshaping(rng: np.random.Generator, *, dark: bool = False) -> Shape:
    """One or two resonances or notches, maybe less top, and how much the attack stands out against the rest."""
    filters = []
    if dark:
        hz = float(np.exp(rng.uniform(np.log(900), np.log(9000))))
        filters.append(butter(int(rng.integers(1, 3)), hz, fs=RATE, output="sos"))
        middle = float(np.exp(rng.uniform(np.log(250), np.log(3000))))
        filters.append(_peaking(middle, rng.uniform(3, 15), q=rng.uniform(0.5, 2.0)))
    for _ in range(int(rng.integers(1, 3))):
        hz, gain_db = float(np.exp(rng.uniform(np.log(80), np.log(12000)))), rng.uniform(-12, 12)
        filters.append(_peaking(hz, gain_db, q=rng.uniform(0.4, 3.0)))
    return filters, float(rng.uniform(-0.5, 0.8))


def _peaking(hz: float, gain_db: float, *, q: float) -> np.ndarray:
    """A bell filter as one second-order section (Bristow-Johnson 1994)."""
    w, a = 2 * np.pi * hz / RATE, 10 ** (gain_db / 40)
    alpha, c = np.sin(w) / (2 * q), np.cos(w)
    section = np.array([1 + alpha * a, -2 * c, 1 - alpha * a, 1 + alpha / a, -2 * c, 1 - alpha / a])
    return (section / section[3])[None]


def reshaped(sound: Mono, shape: Shape | None) -> Mono:
    if shape is None or len(sound) < 32:
        return sound
    filters, attack = shape
    out = sound.astype(float)
    for section in filters:
        out = sosfilt(section, out)
    out *= 1 + attack * np.exp(-np.arange(len(out)) / (0.012 * RATE))
    return out.astype(np.float32)


def retuned(sound: Mono, ratio: float, level: float, damp_s: float) -> Mono:
    """The sound `ratio` times as fast, at `level`, dying away by 1/e more every `damp_s`."""
    at = np.arange(0, len(sound) - 1, ratio)
    moved = np.interp(at, np.arange(len(sound)), sound)
    out: Mono = (level * moved * np.exp(-np.arange(len(at)) / RATE / damp_s)).astype(np.float32)
    return out
