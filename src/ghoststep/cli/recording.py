"""`ghost-step ports` and `record`: devices and takes, each with a simulated stand-in."""

import argparse
from functools import partial
from typing import BinaryIO

import numpy as np

from ghoststep.devices.alsa import AlsaInput, midi_port_names
from ghoststep.devices.drummer import Errors, played
from ghoststep.devices.midi_in import MidiInput, SimulatedKit, taken
from ghoststep.feel.ornaments import spelled_out
from ghoststep.feel.perform import perform_passes
from ghoststep.files.keymap import read_keys
from ghoststep.files.places import keys_file
from ghoststep.files.safe import check_outputs, shown, write_together
from ghoststep.files.sound_out import check_sound_name, sound_writer
from ghoststep.files.textgrid import parse_grid
from ghoststep.music.errors import InputError
from ghoststep.music.groove import Groove
from ghoststep.music.kit import VOICE_NAMES
from ghoststep.music.performance import Performance
from ghoststep.sound.render import render
from ghoststep.work.kits import default_kit
from ghoststep.work.opening import open_groove
from ghoststep.work.takes import take_midi

SIMULATED = "simulated"
_MIDI = (".mid", ".midi")
_MOST_S = 45 * 60.0
_USUAL_S = 8.0
_PLAYED = "tempo 100\nhat_closed x-x-x-x-x-x-x-x-\nsnare ----X--o-o--X---\nkick X-----x-X-------\n"


def ports(options: argparse.Namespace) -> int:
    """Name the ports and devices: MIDI in and out, sound in and out."""
    for output in (False, True):
        _list(f"MIDI {'out' if output else 'in'}", partial(midi_port_names, output=output))
    for kind in ("input", "output"):
        _list(f"sound {kind.removesuffix('put')}", partial(_sound_names, kind))
    if options.simulate:
        print(f"MIDI in     {SIMULATED} (a kit that a drummer with known errors plays: --errors)")
        print(f"sound in    {SIMULATED} (the same drummer, before a microphone)")
    return 0


def _list(what: str, names: "partial[list[str]]") -> None:
    try:
        found = names()
    except InputError as error:
        print(f"{what:<11} none: {error}")
        return
    print("\n".join(f"{what:<11} {name}" for name in found) if found else f"{what:<11} none")


def _sound_names(kind: str) -> list[str]:
    try:
        import sounddevice
    except OSError as error:
        raise InputError("the sound library PortAudio is missing.") from error
    try:
        rows = sounddevice.query_devices()
    except sounddevice.PortAudioError as error:
        raise InputError("there is no sound device.") from error
    return [str(row["name"]) for row in rows if row[f"max_{kind}_channels"] > 0]


def record(options: argparse.Namespace) -> int:
    """Record a take from an electronic kit (OUT.mid) or a microphone (OUT.wav)."""
    seconds = _USUAL_S if options.seconds is None else options.seconds
    if not 0 < seconds <= _MOST_S:
        raise InputError(f"A take lasts up to {_MOST_S / 60:.0f} minutes, not {seconds:g} s.")
    check_outputs((options.out,), (options.plays,) if options.plays else ())
    simulated = options.source == SIMULATED or options.simulate
    if options.out.suffix.lower() in _MIDI:
        return _record_midi(options, seconds, simulated)
    check_sound_name(options.out)
    if not simulated:
        raise InputError(
            "Recording from a microphone is not built yet; --from simulated records the simulated one, and OUT.mid"
            " records an electronic kit."
        )
    sound = render(_drummer(options, seconds), default_kit(), length_s=seconds)
    write_together([(options.out, sound_writer(options.out, lambda: iter([sound[: round(seconds * 44100)]]), 44100))])
    print(f"{shown(options.out)}: {seconds:.1f} s from the simulated microphone")
    return 0


def _record_midi(options: argparse.Namespace, seconds: float, simulated: bool) -> int:
    source: MidiInput
    if simulated:
        keys = read_keys(keys_file())
        pace = 0.0 if options.at_once else 1.0
        source = SimulatedKit(_drummer(options, seconds), [keys.key_of(v) for v in VOICE_NAMES], pace=pace)
    else:
        source = AlsaInput(options.source)
    print(f"Recording {seconds:g} s from {source.name} …")
    try:
        events = taken(source, None if options.at_once else seconds)
    except OSError as error:
        raise InputError(f"{error} Nothing was written.") from error
    events = [e for e in events if e.time_s < seconds]
    data = take_midi(events)
    write_together([(options.out, partial(_write_bytes, data))])
    strokes = sum(e.kind == "note" and e.value > 0 for e in events)
    print(f"{shown(options.out)}: {strokes} strokes")
    return 0


def _drummer(options: argparse.Namespace, seconds: float) -> Performance:
    """What the simulated drummer plays: a groove round and round, with the errors that are asked for."""
    groove: Groove = parse_grid(_PLAYED)
    if options.plays is not None:
        groove = open_groove(options.plays, read_keys(keys_file()))
    groove = spelled_out(groove)
    passes = int(np.ceil(seconds / max(groove.length_s, 0.1)))
    meant = perform_passes(groove, max(passes, 1))
    return played(meant, Errors.parse(options.errors or ""))


def _write_bytes(data: bytes, file: BinaryIO) -> None:
    file.write(data)
