"""A folder of plain sounds as a kit: names and numbers tell voice, layer and round."""

import re
from collections import defaultdict
from dataclasses import dataclass
from pathlib import Path

import numpy as np

from ghoststep.files.safe import shown
from ghoststep.files.sfz.kit import KitFile, check_sample, read_keymap, read_sample
from ghoststep.music.errors import InputError
from ghoststep.music.kit import VOICES
from ghoststep.sound.sampled.region import Filter, Region

ENDINGS = (".wav", ".flac", ".ogg", ".aif", ".aiff", ".mp3", ".opus", ".w64", ".au", ".caf")
_MOST_FILES = 4000
_LAYER_APART_DB = 1.5  # what takes of one strength keep within
# What people call their files beside the names of voices, the longest first; parts of a name are tried in this order.
_NAMES: dict[str, str] = {
    "hihat closed": "hat_closed", "hh closed": "hat_closed", "hat closed": "hat_closed", "closed hh": "hat_closed",
    "closed hat": "hat_closed", "closed hihat": "hat_closed", "hihat open": "hat_open", "hh open": "hat_open",
    "hat open": "hat_open", "open hh": "hat_open", "open hat": "hat_open", "open hihat": "hat_open",
    "half open": "hat_half", "hat half": "hat_half", "hh half": "hat_half", "semi open": "hat_half",
    "hh pedal": "hat_pedal", "hat pedal": "hat_pedal", "hihat pedal": "hat_pedal", "hat foot": "hat_pedal",
    "hh foot": "hat_pedal", "foot": "hat_pedal", "chick": "hat_pedal", "pedal": "hat_pedal",
    "cross stick": "cross_stick", "side stick": "cross_stick", "xstick": "cross_stick", "sidestick": "cross_stick",
    "crossstick": "cross_stick", "rim click": "cross_stick", "ride bell": "ride_bell", "bell": "ride_bell",
    "floor tom": "tom_floor", "tom floor": "tom_floor", "floor": "tom_floor", "high tom": "tom_high",
    "tom high": "tom_high", "hi tom": "tom_high", "tom hi": "tom_high", "mid tom": "tom_mid", "tom mid": "tom_mid",
    "low tom": "tom_low", "tom low": "tom_low", "tom lo": "tom_low", "rack tom": "tom_high", "tom": "tom_mid",
    "crash left": "crash_left", "left crash": "crash_left", "cow bell": "cowbell", "cowbell": "cowbell",
    "shaker": "shaker", "maracas": "shaker", "clap": "clap", "handclap": "clap", "stack": "stack", "china": "china",
    "splash": "splash", "crash": "crash", "ride": "ride", "chh": "hat_closed", "ohh": "hat_open", "phh": "hat_pedal",
    "hihat": "hat_closed", "hat": "hat_closed", "hh": "hat_closed", "snare": "snare", "sd": "snare", "sn": "snare",
    "kick": "kick", "bass drum": "kick", "bassdrum": "kick", "bd": "kick", "kik": "kick",
}  # fmt: skip
_STROKES = {"rimshot": "rim", "rim shot": "rim", "rim": "rim", "edge": "edge", "buzz": "buzz", "brush": "brush"}
_LOUD = {"pp": 1, "soft": 1, "ghost": 1, "p": 2, "mp": 3, "medium": 4, "med": 4, "mf": 4, "f": 5, "hard": 5, "loud": 5,
         "ff": 6, "hardest": 6}  # fmt: skip
_TOMS = ("tom_high", "tom_mid", "tom_low", "tom_floor")


@dataclass(frozen=True)
class Named:
    """What a file's name says; layer and round are 0 where it says none, number is one of which it is not clear."""

    voice: str
    stroke: str
    layer: int
    round: int
    number: int


def named(stem: str) -> Named | None:
    """Read the name of a file without its ending; None where it names no voice."""
    spaced = re.sub(r"([a-z])([A-Z])", r"\1 \2", stem)
    parts = re.findall(r"[a-zA-Z]+|\d+", spaced)
    low = [p.lower() for p in parts]
    text = " " + " ".join(p for p in low if not p.isdecimal()) + " "
    found = next((name for name in sorted(_NAMES, key=len, reverse=True) if f" {name} " in text), None)
    if found is None:
        return None
    voice_name, layer, turn, number = _NAMES[found], 0, 0, 0
    stroke = next((s for word, s in _STROKES.items() if f" {word} " in text), "plain")
    for before, part in zip(["", *low], low, strict=False):
        if part in _LOUD:
            layer = _LOUD[part]
        elif part.isdecimal():
            if before in ("v", "vel", "velocity", "layer", "l"):
                layer = int(part)
            elif before in ("rr", "r", "take", "round", "alt"):
                turn = int(part)
            elif before == "tom" and found in ("tom", "rack tom") and 1 <= int(part) <= len(_TOMS):
                voice_name = _TOMS[int(part) - 1]
            else:
                number = int(part)
    return Named(voice_name, stroke if voice_name == "snare" or voice_name in _TOMS else "plain", layer, turn, number)


def read_folder(folder: Path) -> KitFile:
    """A kit of the sounds in a folder and in the folders within.

    Raises
    ------
    InputError
        Where none of them is the sound of a voice.
    """
    files, trouble = _files(folder)
    strokes: dict[tuple[str, str], list[tuple[Named, Path]]] = defaultdict(list)
    for path in files:
        words = path.relative_to(folder).with_suffix("").parts
        found = named(words[-1]) or (named(" ".join(words[-2:])) if len(words) > 1 else None)
        if found is None:
            trouble.append(f"{path.relative_to(folder)} names no voice of the kit")
            continue
        try:
            check_sample(path)
        except InputError as error:
            trouble.append(str(error))
            continue
        strokes[found.voice, found.stroke].append((found, path))
    if not strokes:
        raise InputError(f"{shown(folder)} has no sounds whose names tell a voice, such as 'snare 1.wav'.")
    keys = _keys(strokes)
    regions: list[Region] = []
    for stroke, rows in sorted(strokes.items()):
        regions += _regions(keys[stroke], rows, folder)
    sounds = {str(path.relative_to(folder)): path for rows in strokes.values() for _, path in rows}
    usual = read_keymap(folder / "folder.kit.json", tuple(regions))
    keymap = type(usual)({**usual.keys, **keys}, usual.levels_db)
    return KitFile(folder.name, tuple(regions), sounds, keymap, {}, tuple(trouble))


def _files(folder: Path) -> tuple[list[Path], list[str]]:
    try:
        found = sorted(p for p in folder.rglob("*") if p.suffix.lower() in ENDINGS and p.is_file())
    except OSError as error:
        raise InputError(f"{shown(folder)} could not be looked through: {error.strerror}.") from error
    trouble = [f"only the first {_MOST_FILES} sounds are looked at"] if len(found) > _MOST_FILES else []
    root = folder.resolve()
    inside = [p for p in found[:_MOST_FILES] if p.resolve().is_relative_to(root)]
    return inside, trouble


def _keys(strokes: dict[tuple[str, str], list[tuple[Named, Path]]]) -> dict[tuple[str, str], int]:
    """A key for each voice and stroke: the usual one of the voice, free ones for its strokes."""
    usual = {v.name: v.keys[0] for v in VOICES}
    usual["hat_half"] = 23  # which shares the key of the open hat in MIDI
    free = iter(range(90, 127))
    return {(name, stroke): usual[name] if stroke == "plain" else next(free) for name, stroke in sorted(strokes)}


def _regions(at: int, rows: list[tuple[Named, Path]], folder: Path) -> list[Region]:
    """The layers of a stroke, softest first, spread over the velocities, and in each its rounds."""
    levels = _levels_db([path for _, path in rows])
    if all(not name.layer for name, _ in rows) and not _are_rounds(rows, levels):
        layered = [[(name, path)] for name, path in sorted(rows, key=lambda row: levels[row[1]])]
    else:
        by_layer: dict[int, list[tuple[Named, Path]]] = defaultdict(list)
        for name, path in rows:
            by_layer[name.layer].append((name, path))
        layered = [sorted(by_layer[n], key=lambda row: (row[0].round, row[0].number, row[1])) for n in sorted(by_layer)]
    out = []
    edges = np.linspace(0, 127, len(layered) + 1).round().astype(int).tolist()
    for n, rounds in enumerate(layered):
        velocities = (edges[n] + (n > 0), edges[n + 1])
        # A layer is recorded as loud as it was struck: at the top of its range it sounds as it is.
        level = (127 / max(velocities[1], 1)) ** 2
        for turn, (_, path) in enumerate(rounds, 1):
            out.append(
                Region(
                    str(path.relative_to(folder)), (at, at), velocities, seq=(turn, len(rounds)), keycenter=at,
                    amplitude=100.0 * (level if len(layered) > 1 else 1.0), random_db=0.6, random_cents=4.0,
                    filters=_softened(len(layered)),
                )
            )  # fmt: skip
    return out


def _softened(layers: int) -> tuple[Filter, ...]:
    """Where one recording serves for every velocity, soft blows are darker: a filter that opens with the blow."""
    return (Filter("lpf_1p", 2500.0, veltrack_cents=3900.0, random_cents=120.0),) if layers == 1 else ()


def _are_rounds(rows: list[tuple[Named, Path]], levels: dict[Path, float]) -> bool:
    """Whether files with mere numbers are takes of one strength: they are about equally loud."""
    if any(name.round for name, _ in rows):
        return True
    found = [levels[path] for _, path in rows]
    return max(found) - min(found) <= _LAYER_APART_DB * max(len(found) - 1, 1) ** 0.5


def _levels_db(paths: list[Path]) -> dict[Path, float]:
    out = {}
    for path in paths if len(paths) > 1 else []:
        samples, rate = read_sample(path)
        loud = samples[: round(0.3 * rate)]
        out[path] = float(10 * np.log10(np.mean(loud**2) + 1e-12)) if len(loud) else -120.0
    return out or dict.fromkeys(paths, 0.0)
