"""A dash for the name of an output: the text goes to standard output, and the words about it to standard error."""

import argparse
import sys
from collections.abc import Callable, Iterable, Iterator, Sequence
from contextlib import contextmanager, redirect_stdout
from io import BytesIO
from pathlib import Path
from typing import BinaryIO

from ghoststep.files.safe import check_outputs, write_together
from ghoststep.music.errors import InputError

DASH = Path("-")
Outs = Sequence[Path | None]


def place(text: str) -> Path:
    """The path of an output that has to be a file or folder.

    Raises
    ------
    argparse.ArgumentTypeError
        Where it is a dash, as a file of that name is what nobody wants.
    """
    if Path(text) == DASH:
        raise argparse.ArgumentTypeError("- (standard output) is for --json and --grid; give a name here")
    return Path(text)


def check_outs(texts: Outs, others: Outs, inputs: Iterable[Path | None]) -> None:
    """`check_outputs` where `texts` may be a dash, one of them.

    Raises
    ------
    InputError
        Where two are, or an output is an input or another output.
    """
    if list(texts).count(DASH) > 1:
        raise InputError("Only one text can go to standard output: give the other a file.")
    check_outputs([path for path in (*texts, *others) if path != DASH], inputs)


def write_outs(writes: Sequence[tuple[Path, Callable[[BinaryIO], object]]]) -> None:
    """`write_together` for the files, and after them what goes to standard output.

    Raises
    ------
    InputError
        Where a file cannot be written; then nothing is.
    BrokenPipeError
        Where nobody reads standard output any more; the files are written by then.
    """
    write_together([(path, write) for path, write in writes if path != DASH])
    for path, write in writes:
        if path == DASH:
            held = BytesIO()  # whole, before any of it is out
            write(held)
            sys.stdout.buffer.write(held.getvalue())
            sys.stdout.buffer.flush()


@contextmanager
def words_aside(texts: Outs) -> Iterator[None]:
    """What is printed goes to standard error, where standard output has been given to a text."""
    if DASH not in texts:
        yield
        return
    with redirect_stdout(sys.stderr):
        yield
