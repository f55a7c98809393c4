"""`ghost-step render` and `kits`."""

import argparse
from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import BinaryIO

from ghoststep.cli.performing import at_tempo, length_told
from ghoststep.files.keymap import read_keys
from ghoststep.files.places import keys_file, made
from ghoststep.files.safe import check_outputs, shown, write_together
from ghoststep.files.sound_out import SoundForm, Written, check_sound_name, sound_writer
from ghoststep.sound.kit import check_rate
from ghoststep.work.formats import plain_name
from ghoststep.work.forms import section_of
from ghoststep.work.kits import KITS, kit_named, kit_or_default
from ghoststep.work.opening import open_document
from ghoststep.work.rendering import Counted, Rendering, stem_blocks, stems_of

Write = Callable[[BinaryIO], object]


def render(options: argparse.Namespace) -> int:
    """Play a groove on a kit into a sound file: with what rings on, or as an exact loop."""
    form = SoundForm(options.bits, not options.no_dither, options.loudness, options.peak)
    check_sound_name(options.out, form, options.rate)
    check_rate(options.rate)
    check_outputs((options.out,), (options.groove,))
    document = open_document(options.groove, read_keys(keys_file()))
    groove = at_tempo(section_of(document, options.section), options.tempo)
    found = kit_named(options.kit, options.rate) if options.kit else kit_or_default(document.kit, options.rate)
    what = Rendering(groove, found.kit, loop=options.loop, repeat=options.repeat)
    mix, written = Counted(what), Written()
    writes: list[tuple[Path, Write]] = [
        (options.out, sound_writer(options.out, mix.blocks, options.rate, form, written))
    ]
    if options.stems:
        folder, ending = made(options.stems), options.out.suffix
        for stem in stems_of(what, options.stems_by):
            file = folder / f"{plain_name(options.out)}-{stem.which}{ending}"
            blocks = partial(stem_blocks, what, stem, lambda: mix.frames)  # the mix is written before them
            writes.append((file, sound_writer(file, blocks, options.rate, form, gain_of=written)))
    check_outputs([path for path, _ in writes], (options.groove,))
    write_together(writes)
    print(f"{length_told(options.out, what)}; kit {found.kit.name}; {written.told()}")
    for path, _ in writes[1:]:
        print(shown(path))
    for line in found.trouble:
        print(f"kit {found.kit.name}: {line}")
    return 0


def kits(options: argparse.Namespace) -> int:
    """Name the kits that ship, or say what plays of an SFZ file or a folder of sounds."""
    if options.kit is None:
        for row in KITS:
            print(f"{row.name:<12} {row.about}")
        print("An SFZ file or a folder of sounds is a kit too: --kit FILE.sfz, --kit FOLDER")
        return 0
    found = kit_named(str(options.kit))
    print(found.kit.name)
    print("\n".join(found.trouble) if found.trouble else "Everything in it plays.")
    return 0
