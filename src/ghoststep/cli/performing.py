"""`ghost-step perform` and `show`."""

import argparse
import sys
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path
from typing import BinaryIO

from ghoststep.feel.perform import perform as performed
from ghoststep.files.keymap import KeyMap, read_keys
from ghoststep.files.midi_out import LEAD_WORDS, midi_file
from ghoststep.files.places import keys_file
from ghoststep.files.safe import check_outputs, shown, write_together
from ghoststep.files.sound_out import sound_writer
from ghoststep.music.errors import InputError
from ghoststep.music.feel import Swing
from ghoststep.music.groove import Groove
from ghoststep.music.kit import VOICES, voices_of
from ghoststep.music.time import TempoMap, checked_tempo_bpm
from ghoststep.session.document.describe import summary_line
from ghoststep.session.document.differences import words
from ghoststep.work.feels import feel_from, laid
from ghoststep.work.forms import form_lines, markers_of, proposed, section_of, text_of
from ghoststep.work.kits import kit_or_default
from ghoststep.work.opening import open_document, open_groove
from ghoststep.work.rendering import Rendering, blocks_of

Write = Callable[[BinaryIO], object]
MOST_PERCENT = 150  # of a player's touch or time


def perform(options: argparse.Namespace) -> int:
    """Play a groove with a feel, to MIDI or sound; with neither named, print the moments."""
    keys = read_keys(keys_file())
    check_outputs((options.midi, options.wav), (options.groove,))
    document = open_document(options.groove, keys)
    groove = felt(section_of(document, options.section), options, keys)
    writes: list[tuple[Path, Write]] = []
    told = []
    if options.midi:
        markers = markers_of(document) if options.section is None else ()
        written, write = midi_file(groove, keys, division=options.division, kind=options.type, markers=markers)
        writes.append((options.midi, write))
        lead = f"; it {LEAD_WORDS}" if written.lead_bars else ""
        told.append(f"{shown(options.midi)}: {written.notes} notes{lead}")
    if options.wav:
        what = Rendering(groove, kit_or_default(document.kit).kit)
        writes.append((options.wav, _sound(options.wav, what)))
        told.append(length_told(options.wav, what))
    write_together(writes)
    if writes:
        print("\n".join(told))
    else:
        _print_moments(groove)
    return 0


def felt(groove: Groove, options: argparse.Namespace, keys: KeyMap) -> Groove:
    """The groove with what the options change of its feel and tempo; all else, the balance too, stays."""
    groove = _with_feel(groove, options, keys)
    feel = groove.feel
    feel = replace(
        feel,
        swing=Swing.parse(options.swing) if options.swing else feel.swing,
        lean_ms=dict(feel.lean_ms) | (parse_lean(options.lean) if options.lean else {}),
        loose_ms=feel.loose_ms if options.loose is None else options.loose,
        take=feel.take if options.take is None else options.take,
    )
    return at_tempo(groove.changed(feel=feel), options.tempo)


def _with_feel(groove: Groove, options: argparse.Namespace, keys: KeyMap) -> Groove:
    """The groove with a player's feel laid on it; how it was mapped is told on stderr, beside what is printed."""
    for name in ("touch", "time"):
        share = getattr(options, name)
        if share is not None and options.feel is None:
            raise InputError(f"--{name} says how far a feel goes: give one with --feel.")
        if share is not None and not 0 <= share <= MOST_PERCENT:
            raise InputError(f"--{name} {share:g} does not fit: 0 to {MOST_PERCENT} %.")
    if options.feel is None:
        return groove
    player, name = feel_from(options.feel, keys)
    touch, time = (100.0 if x is None else x for x in (options.touch, options.time))
    groove, told = laid(player, groove, touch, time)
    print(f"{name}: {' '.join(told)}", file=sys.stderr)
    return groove


def at_tempo(groove: Groove, bpm: float | None) -> Groove:
    """The groove at another tempo; where it changes along the way, all of it by as much as its main tempo."""
    if bpm is None:
        return groove
    old, wanted = groove.tempo, checked_tempo_bpm(bpm)
    if old.steady:
        return groove.changed(tempo=TempoMap.constant(wanted))
    share = wanted / old.main_bpm
    begin, end = (tuple(checked_tempo_bpm(b * share) for b in row) for row in (old.bpm, old.to_bpm))
    return groove.changed(tempo=TempoMap(old.ticks, begin, end))


def parse_lean(text: str) -> dict[str, float]:
    """Read "snare=+12,hat=-4" as ms by voice; a group stands for its voices.

    Raises
    ------
    InputError
        Where it is no list of voices with ms.
    """
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


def _sound(path: Path, what: Rendering) -> Write:
    return sound_writer(path, lambda: blocks_of(what), what.kit.rate)


def length_told(path: Path, what: Rendering) -> str:
    hits = len(performed(what.groove)) * what.repeat
    lead = f"; {what.lead_words}" if what.lead_words else ""
    return f"{shown(path)}: {what.groove.length_s * what.repeat:.3f} s, {hits} hits{lead}"


def show(options: argparse.Namespace) -> int:
    """Print a groove as a text grid, in a drummer's sentences, or what is different in another one."""
    keys = read_keys(keys_file())
    document = open_document(options.groove, keys)
    groove = document.groove
    if sum((options.describe, options.form, options.diff is not None)) > 1:
        raise InputError("--describe, --form and --diff tell different things: give one of them.")
    if options.form:
        print("\n".join(form_lines(document.form or proposed(groove)[1])))
    elif options.describe:
        from ghoststep.session.say.telling import told

        print("\n".join(told(groove)))
    elif options.diff is None:
        print("\n".join(f"# {line}" for line in summary_line(groove)))
        print(text_of(document), end="")
    else:
        print("\n".join(words(groove, open_groove(options.diff, keys))))
    return 0
