"""`ghost-step listen`."""

import argparse
import sys
from pathlib import Path

from ghoststep.files.analysis import analysis, write_analysis
from ghoststep.files.grooves import hear_file, is_listenable, onsets_s, plain_name
from ghoststep.files.keymap import KeyMap, read_keys
from ghoststep.files.midi_out import write_midi
from ghoststep.files.places import keys_file, made
from ghoststep.files.safe import file_trouble
from ghoststep.files.textgrid import write_grid
from ghoststep.listen.explain import Hints
from ghoststep.listen.words import summary
from ghoststep.music.errors import InputError
from ghoststep.music.meter import Meter
from ghoststep.music.time import checked_tempo_bpm
from ghoststep.session.document import Document


def listen(options: argparse.Namespace) -> int:
    """Hear a drum recording or MIDI performance: tempo, bars, hits, swing and lean."""
    hints = _hints(options)
    keys = read_keys(keys_file())
    if not options.file.is_dir():
        document = hear_file(options.file, keys, hints)
        _report(document)
        _write(document, (options.json, options.midi, options.grid), options.division, keys)
        return 0
    return _folder(options, keys, hints)


def _hints(options: argparse.Namespace) -> Hints:
    if options.bars is not None and not 1 <= options.bars <= 4096:
        raise InputError(f"--bars {options.bars} does not fit: give 1 to 4096.")
    tempo = None if options.tempo is None else checked_tempo_bpm(options.tempo)
    return Hints(tempo, Meter.parse(options.meter) if options.meter else None, options.bars)


def _report(document: Document) -> None:
    heard = document.listening
    if heard is None:
        return
    print(f"{document.name}: {summary(heard.explained)}")
    others = [r for r in heard.explained.readings[1:4] if r.share >= 0.02]
    if others:
        print("  could also be: " + ", ".join(f"{r.tempo_bpm:.1f} BPM in {r.meter}" for r in others))
    for remark in heard.remarks:
        print(f"  {remark}")


Outs = tuple[Path | None, Path | None, Path | None]  # JSON, MIDI, text grid


def _write(document: Document, outs: Outs, division: int, keys: KeyMap) -> None:
    json, midi, grid = outs
    heard = document.listening
    if heard is None:
        return
    if json:
        write_analysis(json, analysis(heard.explained, heard.confidence, onsets_s(document), heard.remarks))
    if midi:
        written = write_midi(midi, document.groove, keys, division=division)
        if written.lead_bars:
            print("  a hit is earlier than bar 1, so the MIDI file begins with one empty bar")
    if grid:
        write_grid(grid, document.groove)


def _folder(options: argparse.Namespace, keys: KeyMap, hints: Hints) -> int:
    """Every recording and MIDI file of a folder; bad files are named and passed over."""
    try:
        files = sorted(p for p in options.file.iterdir() if p.is_file() and is_listenable(p))
    except OSError as error:
        raise file_trouble(error, options.file, "read") from error
    if not files:
        raise InputError(f"{options.file.name or options.file} holds no sound or MIDI file.")
    outs = [
        (folder, suffix)
        for folder, suffix in ((options.json, ".json"), (options.midi, ".mid"), (options.grid, ".grid.txt"))
    ]
    for folder, _ in outs:
        if folder:
            made(folder)
    bad = 0
    for file in files:
        try:
            document = hear_file(file, keys, hints)
        except InputError as error:
            bad += 1
            print(f"ghost-step: {error}", file=sys.stderr)
            continue
        _report(document)
        # Two recordings of one name but different kinds must not take each other's place.
        alone = [plain_name(other) for other in files].count(plain_name(file)) == 1
        stem = plain_name(file) if alone else file.name
        json, midi, grid = (folder / f"{stem}{suffix}" if folder else None for folder, suffix in outs)
        _write(document, (json, midi, grid), options.division, keys)
    print(f"{len(files) - bad} of {len(files)} files heard")
    return 2 if bad == len(files) else 0
