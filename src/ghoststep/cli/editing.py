"""`ghost-step edit`: the commands of the window without it, from the same table."""

import argparse
from dataclasses import replace
from pathlib import Path

from ghoststep.cli.asked import Run
from ghoststep.files.degrees import read_degrees
from ghoststep.files.feels import use_shelf
from ghoststep.files.keymap import read_keys
from ghoststep.files.kit_setups import read_setup
from ghoststep.files.places import keys_file
from ghoststep.files.safe import check_outputs
from ghoststep.music.errors import InputError
from ghoststep.session.commands import COMMANDS
from ghoststep.session.document.document import Document, Snapshot
from ghoststep.session.edits.commit import opened
from ghoststep.session.edits.version_edits import kept
from ghoststep.session.language.edit_context import EditContext
from ghoststep.session.language.verb import all_verbs, commands_in, other_words
from ghoststep.work.formats import Holds, Output, holds, written
from ghoststep.work.forms import text_of
from ghoststep.work.kits import use_kits
from ghoststep.work.opening import open_document


def edit(options: argparse.Namespace) -> int:
    """Change a groove by commands, each a phrase such as "velocity +4 on snare ghosts"; see --list."""
    if options.list:
        _list()
        return 0
    use_shelf()
    use_kits()
    if options.groove is None:
        raise InputError("Which groove? Give a project, text grid or MIDI file, or --list for the commands.")
    check_outputs((options.out,), (options.groove, options.setup, *options.beside))
    if not options.asked and options.out is None:
        raise InputError(
            "Say what to do, for example: --say 'snare a bit louder' or --do 'velocity 64 on snare ghosts', or what to"
            " write: -o OUT."
        )
    document = open_document(options.groove, read_keys(keys_file()))
    for path in options.beside:
        other = _beside(path)
        document = kept(document, Snapshot(other.name, other.groove, other.form))
    if options.setup is not None:
        document = replace(document, judged=document.judged.with_kit(read_setup(options.setup)))
    run = Run(EditContext(opened(document)), read_degrees(options.degrees))
    asked = [(o, part) for o, text in options.asked for part in (commands_in(text) if o == "--do" else [text])]
    for number, (option, text) in enumerate(asked, 1):
        try:
            run.say(text) if option == "--say" else run.do(text)
        except InputError as error:
            raise InputError(f"Command {number}, '{text}': {error} Nothing was written.") from error
    context, told = run.context, run.told
    # What was asked for is on the disk before anything is told: whoever reads our words may go away in between.
    if options.out is not None:
        told += written(options.out, context.document, Output(read_keys(keys_file())))
    print("\n".join(told))
    if options.out is None:
        print(text_of(context.document), end="")
    return 0


def _beside(path: Path) -> Document:
    """What is kept beside the groove: another one, or what is heard in a recording."""
    keys = read_keys(keys_file())
    if holds(path) is not Holds.SOUND:
        return open_document(path, keys)
    from ghoststep.listen.bars.reading import Hints
    from ghoststep.work.grooves import hear_file

    return hear_file(path, keys, Hints(), keep_file=False)


def _list() -> None:
    """Every verb, then every command of the window that says one."""
    print(
        "Verbs. TARGET names hits: a voice or group, ghosts, normals, accents, bars 2-4, beats 2,4, at 2a, limb L ...\n"
    )
    for verb in all_verbs().values():
        also = [word for word, name in other_words().items() if name == verb.name]
        print(f"  {verb.line}\n      {verb.about}{f' (also: {chr(44).join(also)})' if also else ''}; {verb.example}")
    print("\nCommands of the window that can be named too:\n")
    for row in COMMANDS.values():
        if row.phrase:
            print(f"  {row.name:<22} {row.phrase:<32} {row.text}")
