"""`ghost-step slice` and `replay`: a recording cut at its hits, and played anew."""

import argparse
from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import BinaryIO

from ghoststep.cli.performing import at_tempo
from ghoststep.files.keymap import read_keys
from ghoststep.files.places import keys_file, made
from ghoststep.files.safe import check_outputs, shown, write_together
from ghoststep.files.sound_out import Written, check_sound_name, sound_writer
from ghoststep.listen.bars.reading import Hints
from ghoststep.music.time import checked_tempo_bpm
from ghoststep.session.document.document import Document
from ghoststep.work.formats import Holds, holds, plain_name
from ghoststep.work.grooves import hear_file
from ghoststep.work.opening import open_document, open_groove
from ghoststep.work.slicing import (
    piece_name,
    piece_samples,
    pieces_midi,
    pieces_sfz,
    pieces_words,
    replay,
    sliced,
)

Write = Callable[[BinaryIO], object]


def slice_recording(options: argparse.Namespace) -> int:
    """Cut a recording at its hits: a file for each piece, an SFZ kit and a MIDI file that play them."""
    document = _heard(options)
    found = sliced(document)
    folder = made(options.folder)
    writes: list[tuple[Path, Write]] = []
    for number, piece in enumerate(found.slices):
        path = folder / piece_name(number, piece)
        samples = partial(lambda p: iter([piece_samples(found, p)]), piece)
        writes.append((path, sound_writer(path, samples, found.recording.rate)))
    name = plain_name(options.recording)
    bpm = document.groove.tempo.main_bpm
    for path, data in (
        (folder / f"{name}.sfz", pieces_sfz(found).encode()),
        (folder / f"{name}.mid", pieces_midi(found, bpm)),
    ):
        writes.append((path, partial(_write_bytes, data)))
    check_outputs([path for path, _ in writes], (options.recording,))
    write_together(writes)
    print(f"{shown(folder)}: {len(found.slices)} pieces, {name}.sfz and {name}.mid, {bpm:.1f} BPM")
    print("".join(f"{line}\n" for line in pieces_words(found)), end="")
    return 0


def replay_recording(options: argparse.Namespace) -> int:
    """Play another groove with the sounds of a recording."""
    check_sound_name(options.out)
    check_outputs((options.out,), (options.recording, options.groove))
    document = _heard(options)
    found = sliced(document)
    groove = at_tempo(open_groove(options.groove, read_keys(keys_file())), options.to_tempo)
    samples, words = replay(found, document.groove, groove, pitch_tied=options.pitch == "tied")
    written = Written()
    writer = sound_writer(options.out, lambda: iter([samples]), found.recording.rate, written=written)
    write_together([(options.out, writer)])
    print(f"{shown(options.out)}: {len(samples) / found.recording.rate:.3f} s, {words}; {written.told()}")
    return 0


def _write_bytes(data: bytes, file: BinaryIO) -> None:
    file.write(data)


def _heard(options: argparse.Namespace) -> Document:
    keys = read_keys(keys_file())
    row = holds(options.recording)
    if row is Holds.GROOVE and options.recording.suffix == ".ghoststep":
        return open_document(options.recording, keys)
    bpm = None if options.tempo is None else checked_tempo_bpm(options.tempo)
    return hear_file(options.recording, keys, Hints(tempo_bpm=bpm))
