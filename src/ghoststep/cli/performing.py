"""`ghost-step perform`, `render` and `show`."""

import argparse
from pathlib import Path

from ghoststep.feel.perform import perform as performed
from ghoststep.files.keymap import read_keys
from ghoststep.files.midi_out import write_midi
from ghoststep.files.places import keys_file, made
from ghoststep.files.sound import write_sound
from ghoststep.files.textgrid import grid_text
from ghoststep.music.errors import InputError
from ghoststep.music.feel import Feel, Swing
from ghoststep.music.groove import Groove
from ghoststep.music.kit import VOICES, voices_of
from ghoststep.music.time import TempoMap, checked_tempo_bpm
from ghoststep.session.document.differences import words
from ghoststep.sound.kit import Kit
from ghoststep.sound.render import render as rendered
from ghoststep.work.grooves import open_groove, plain_name


def perform(options: argparse.Namespace) -> int:
    """Play a groove with a feel, to MIDI or sound; with neither named, print the moments."""
    keys = read_keys(keys_file())
    groove = _felt(open_groove(options.groove, keys), options)
    if options.midi:
        written = write_midi(options.midi, groove, keys, division=options.division, kind=options.type)
        lead = "; it begins with one empty bar, since a hit is earlier than bar 1" if written.lead_bars else ""
        print(f"{options.midi.name}: {written.notes} notes{lead}")
    if options.wav:
        _to_sound(groove, options.wav, Kit())
    if not options.midi and not options.wav:
        _print_moments(groove)
    return 0


def _felt(groove: Groove, options: argparse.Namespace) -> Groove:
    """The groove with what the options change of its feel and tempo."""
    feel = groove.feel
    lean = dict(feel.lean_ms) | (parse_lean(options.lean) if options.lean else {})
    feel = Feel(
        Swing.parse(options.swing) if options.swing else feel.swing,
        lean,
        feel.loose_ms if options.loose is None else options.loose,
        feel.take if options.take is None else options.take,
    )
    tempo = groove.tempo if options.tempo is None else TempoMap.constant(checked_tempo_bpm(options.tempo))
    return groove.changed(feel=feel, tempo=tempo)


def parse_lean(text: str) -> dict[str, float]:
    """Read "snare=+12,hat=-4" as ms by voice; a group stands for its voices."""
    out: dict[str, float] = {}
    for part in text.split(","):
        name, equals, ms = part.strip().partition("=")
        try:
            out.update(dict.fromkeys(voices_of(name), float(ms)))
        except ValueError as error:
            if isinstance(error, InputError):
                raise
            raise InputError(f"'{part.strip()}' is no lean: write it like snare=+12, in ms.") from error
        if not equals:
            raise InputError(f"'{part.strip()}' is no lean: write it like snare=+12, in ms.")
    return out


def _print_moments(groove: Groove) -> None:
    performance = performed(groove).ordered()
    for onset, voice, velocity in zip(performance.onset_s, performance.voice, performance.velocity, strict=True):
        print(f"{onset:9.4f} s  {VOICES[voice].name:<12} velocity {velocity:3}")


def _to_sound(groove: Groove, path: Path, kit: Kit, voices: tuple[str, ...] | None = None) -> None:
    performance = performed(groove)
    # An early first hit begins before bar 1: the file starts with it, and all files of one call alike.
    lead_s = max(0.0, -float(performance.onset_s.min(initial=0.0)))
    write_sound(path, rendered(performance, kit, lead_s=lead_s, voices=voices), kit.rate)
    print(f"{path.name}: {groove.length_s:.1f} s, {len(performance)} hits" if voices is None else path.name)


def render(options: argparse.Namespace) -> int:
    """Play a groove on the built-in kit into a sound file."""
    if options.kit.lower() not in ("night tram", "night-tram"):
        raise InputError(f"There is no kit '{options.kit}'; the one built in is 'Night Tram'.")
    kit = Kit(rate=options.rate)
    groove = open_groove(options.groove, read_keys(keys_file()))
    _to_sound(groove, options.out, kit)
    if options.stems:
        folder = made(options.stems)
        for name in groove.pattern.voices:
            _to_sound(groove, folder / f"{plain_name(options.out)}-{name}.wav", kit, (name,))
    return 0


def show(options: argparse.Namespace) -> int:
    """Print a groove as a text grid, or what is different in another one."""
    keys = read_keys(keys_file())
    groove = open_groove(options.groove, keys)
    if options.diff is None:
        print(grid_text(groove), end="")
    else:
        print("\n".join(words(groove, open_groove(options.diff, keys))))
    return 0
