"""`ghost-step feel` and `takes`."""

import argparse
from dataclasses import replace
from pathlib import Path

from ghoststep.cli.performing import Write, felt
from ghoststep.feel.words import feel_lines, measured_lines
from ghoststep.files.feel_file import read_feel, write_feel
from ghoststep.files.feels import shelf
from ghoststep.files.keymap import read_keys
from ghoststep.files.midi_out import LEAD_WORDS, midi_file
from ghoststep.files.places import FEEL_SUFFIX, keys_file, made
from ghoststep.files.safe import check_outputs, shown, write_together
from ghoststep.music.errors import InputError
from ghoststep.work.feels import is_feel, measured_file
from ghoststep.work.formats import plain_name
from ghoststep.work.forms import section_of
from ghoststep.work.opening import open_document

MOST_TAKES = 1000


def feel(options: argparse.Namespace) -> int:
    """Measure how something is played: swing, leans, looseness and touch; or tell what a feel says."""
    if options.list:
        found, troubles = shelf()
        for one in found:
            print(f"{one.name}: {one.about}")
        for trouble in troubles:
            print(trouble)
        return 0
    if options.file is None:
        raise InputError("Say whose feel: a recording, a MIDI file, a project or a text grid; or --list.")
    check_outputs((options.out,), (options.file,))
    if options.out and not options.out.name.endswith(FEEL_SUFFIX):
        raise InputError(f"{shown(options.out)} does not end in {FEEL_SUFFIX}.")
    if is_feel(options.file):
        known, name, about = read_feel(options.file)
        lines = ([about] if about else []) + feel_lines(known)
    else:
        measured, name = measured_file(options.file, read_keys(keys_file()))
        known, about, lines = measured.feel, f"Measured in {shown(options.file)}.", measured_lines(measured)
    if options.out:
        write_feel(options.out, known, name, about)
    print(f"{name}:")
    for line in lines:
        print(f"  {line}")
    return 0


def takes(options: argparse.Namespace) -> int:
    """Play several takes of a groove, each to a MIDI file of its own."""
    if not 1 <= options.count <= MOST_TAKES:
        raise InputError(f"--count {options.count} does not fit: 1 to {MOST_TAKES} takes.")
    keys = read_keys(keys_file())
    groove = felt(section_of(open_document(options.groove, keys), options.section), options, keys)
    first, name = groove.feel.take, plain_name(options.groove)
    if not groove.feel.loose_ms and not groove.feel.wander.velocity:
        raise InputError("This groove has no looseness: all takes would be alike. Give --loose or --feel.")
    folder = made(options.midi)
    writes: list[tuple[Path, Write]] = []
    told = []
    for number in range(first, first + options.count):
        take = groove.changed(feel=replace(groove.feel, take=number, frozen=True))
        written, write = midi_file(take, keys, division=options.division, kind=options.type)
        path = folder / f"{name}-take-{number:02d}.mid"
        writes.append((path, write))
        told.append(f"{shown(path)}; it {LEAD_WORDS}" if written.lead_bars else shown(path))
    check_outputs([path for path, _ in writes], (options.groove,))
    write_together(writes)
    print("\n".join(told))
    return 0
