"""`ghost-step listen`."""

import argparse
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path
from typing import BinaryIO

from ghoststep.cli.dash import DASH, check_outs, words_aside, write_outs
from ghoststep.files.analysis import analysis_bytes
from ghoststep.files.hits import read_hits
from ghoststep.files.keymap import KeyMap, read_keys
from ghoststep.files.places import keys_file
from ghoststep.files.sound import MAX_LENGTH_S
from ghoststep.listen.bars.reading import SAID, Click, Hints, near_readings
from ghoststep.listen.words import near_words, summary
from ghoststep.music.errors import InputError
from ghoststep.music.meter import Meter
from ghoststep.music.time import checked_tempo_bpm
from ghoststep.session.document.document import Document
from ghoststep.work.formats import Holds, holds
from ghoststep.work.grooves import analysis_of, hear_file, hear_mouth_file
from ghoststep.work.offers import offers
from ghoststep.work.time_lines import time_line_words
from ghoststep.work.tracks import hear_tracks
from ghoststep.work.trust import Trust

_SHOWN = 6  # strokes that may be one are named, then counted


def listen(options: argparse.Namespace) -> int:
    """Hear a drum recording or MIDI performance: tempo, bars, hits, swing and lean."""
    hints = _hints(options)
    if (options.teach or options.sounds) and not options.mouth:
        raise InputError("--teach and --sounds belong to --mouth, which listens to mouth drumming.")
    keys = read_keys(keys_file())
    passage = _passage(options)
    trust = Trust.FILE if options.trust_file else Trust.HITS if options.ignore_file else Trust.COMPARE
    file = options.files[0]
    if len(options.files) > 1:
        return _listen_together(options, hints, keys)
    if file.is_dir():
        if passage is not None:
            raise InputError("A passage can be taken from one file, not from a folder.")
        if DASH in (options.json, options.grid):
            raise InputError("The files of a folder go to a folder: give the name of one, not - (standard output).")
        return _listen_folder(options, hints, keys, trust)
    if options.scheduler:
        raise InputError("Other machines hear the files of a folder: give a folder with --scheduler.")
    check_outs((options.json, options.grid), (options.midi,), (file, options.teach))
    if options.mouth:
        taught = tuple(options.sounds.split(",")) if options.sounds else ()
        document = hear_mouth_file(file, hints, taught=taught, lesson=options.teach, passage_s=passage)
    else:
        document = hear_file(file, keys, hints, passage_s=passage, trust=trust, keep_file=False)
    told = _write(document, options, keys, as_song=options.form)
    if options.form:
        from ghoststep.work.forms import form_lines, proposed

        told += form_lines(proposed(document.groove)[1])
    _tell(document, options, told)
    return 0


def _listen_folder(options: argparse.Namespace, hints: Hints, keys: KeyMap, trust: Trust) -> int:
    """Every file of a folder, by processes of this machine or by the workers of a scheduler."""
    # What starts processes takes a while to import, and one file needs none of it.
    from ghoststep.work.cluster import workers_of
    from ghoststep.work.folder import Outs, listen_folder

    folder, again = options.files[0], options.again
    outs = Outs(options.json, options.midi, options.grid, options.division, trust)
    if not options.scheduler:
        return listen_folder(folder, outs, keys, hints, processes=options.processes, again=again)
    if options.processes:
        raise InputError("The scheduler knows how many workers there are: leave --processes out with --scheduler.")
    whole = replace(outs, **{n: p.absolute() for n in ("json", "midi", "grid") if (p := getattr(outs, n))})
    with workers_of(options.scheduler) as elsewhere:
        return listen_folder(folder.absolute(), whole, keys, hints, elsewhere=elsewhere, again=again)


def _listen_together(options: argparse.Namespace, hints: Hints, keys: KeyMap) -> int:
    """Several tracks of one performance."""
    if options.mouth or _passage(options) is not None or options.again or options.processes or options.scheduler:
        raise InputError("Several files are listened to together, as tracks of one performance: whole, and as drums.")
    check_outs((options.json, options.grid), (options.midi,), tuple(options.files))
    document = hear_tracks(options.files, hints)
    _tell(document, options, _write(document, options, keys))
    return 0


def _hints(options: argparse.Namespace) -> Hints:
    if options.bars is not None and not 1 <= options.bars <= 4096:
        raise InputError(f"--bars {options.bars} does not fit: give 1 to 4096.")
    tempo = None if options.tempo is None else checked_tempo_bpm(options.tempo)
    meter = Meter.parse(options.meter) if options.meter else None
    click = _click(options.click) if options.click else None
    if click is not None and tempo is not None:
        raise InputError("--click says the tempo already: leave --tempo away.")
    return Hints(tempo, meter, options.bars, click=click)


def _click(text: str) -> Click:
    """A click as it is told, or as somebody tapped it into a table of hits."""
    path = Path(text)
    if holds(path) is Holds.HITS:
        return Click.of_taps(read_hits(path).onset_s.tolist())
    return Click.parse(text)


def _tell(document: Document, options: argparse.Namespace, told: list[str]) -> None:
    """Print what was heard, and then what else there is to tell."""
    with words_aside((options.json, options.grid)):
        _report(document)
        for line in told:
            print(f"  {line}")


def _report(document: Document) -> None:
    heard = document.listening
    if heard is None:
        return
    print(f"{document.name}: {summary(heard.explained)}")
    why = heard.explained.readings[0].why if heard.explained.readings else ""
    if why and why != SAID:
        print(f"  counted so because {why}")
    near = near_readings(heard.explained.readings)
    if near and why != SAID:
        again = f"--tempo {near[0].tempo_bpm:.1f} --meter '{near[0].meter.full_name}'"
        print(f"  not decided: it may as well be {near_words(heard.explained.readings)}; {again} takes it so")
    others = [r for r in heard.explained.readings[1:4] if r.share >= 0.02 and r not in near]
    if others:
        print("  could also be: " + ", ".join(f"{r.tempo_bpm:.1f} BPM in {r.meter}" for r in others))
    waiting = offers(document)
    if waiting:
        shown_ones = ", ".join(f"{o.perhaps.voice} {o.spot} in bar {o.bar}" for o in waiting[:_SHOWN])
        more = f" and {len(waiting) - _SHOWN} more" if len(waiting) > _SHOWN else ""
        print(f"  perhaps too, but not taken: {shown_ones}{more}")
    if lines := time_line_words(heard.explained.groove):
        print(f"  {lines}")
    for remark in heard.remarks:
        print(f"  {remark}")


def _write(document: Document, options: argparse.Namespace, keys: KeyMap, *, as_song: bool = False) -> list[str]:
    """Write what is wanted, all or none; words about it. `as_song`: the text grid in parts and sections."""
    json, midi, grid = options.json, options.midi, options.grid
    writes: list[tuple[Path, Callable[[BinaryIO], object]]] = []
    told = []
    if json:
        content = analysis_bytes(analysis_of(document))
        writes.append((json, lambda file: file.write(content)))
    if midi:
        from ghoststep.files.midi_out import midi_file

        written, write = midi_file(document.groove, keys, division=options.division)
        writes.append((midi, write))
        if written.lead_bars:
            told.append("a hit is earlier than bar 1, so the MIDI file begins with one empty bar")
    if grid:
        from ghoststep.files.textgrid_out import grid_text
        from ghoststep.files.textgrid_song_out import song_text
        from ghoststep.work.forms import proposed

        groove = document.groove
        text = (song_text(proposed(groove)[1], groove) if as_song else grid_text(groove)).encode("utf-8")
        writes.append((grid, lambda file: file.write(text)))
    write_outs(writes)
    return told


def _passage(options: argparse.Namespace) -> tuple[float, float] | None:
    """The part of a file that is meant, from --from and --to; None for all of it."""
    if options.start is None and options.end is None:
        return None
    start = 0.0 if options.start is None else seconds_of(options.start)
    return start, MAX_LENGTH_S + start if options.end is None else seconds_of(options.end)


def seconds_of(text: str) -> float:
    """ "1:20", "80", "1:02:03.5" in seconds.

    Raises
    ------
    InputError
        Where it is no time.
    """
    parts = text.split(":")
    try:
        values = [float(p) for p in parts]
    except ValueError:
        values = []
    if not 1 <= len(values) <= 3 or not all(0 <= v < 1e6 for v in values):
        raise InputError(f"'{text}' is no time: write it like 80 or 1:20 or 1:20.5.")
    total = 0.0
    for value in values:
        total = 60 * total + value
    return total
