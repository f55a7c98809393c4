"""What is printed is text and nothing else: names that come out of files may hold codes that a terminal would obey."""

import logging
import re
import sys
from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any, TextIO

_CODES = re.compile(r"[\x00-\x08\x0b-\x1f\x7f-\x9f\u200e\u200f\u2028-\u202e\u2066-\u2069]")


class _Plain:
    """A stream of text without codes; all else is the stream's own."""

    def __init__(self, stream: TextIO) -> None:
        self._stream = stream

    def write(self, text: str) -> int:
        return self._stream.write(_CODES.sub("\ufffd", text))

    def __getattr__(self, name: str) -> Any:
        return getattr(self._stream, name)


@contextmanager
def plain_output() -> Iterator[None]:
    """Standard output and error without codes as long as it lasts."""
    out, error = sys.stdout, sys.stderr
    sys.stdout, sys.stderr = _Plain(out), _Plain(error)
    try:
        yield
    finally:
        if isinstance(sys.stdout, _Plain):  # else its reader went away, and another one stands there
            sys.stdout = out
        sys.stderr = error


class _ToError(logging.Handler):
    def emit(self, record: logging.LogRecord) -> None:
        print(f"ghost-step: {record.getMessage()}", file=sys.stderr)


def remarks_told() -> None:
    """What files lost when they were replaced, and what could not be read of one, is said on standard error."""
    for name in ("ghoststep.files.safe", "ghoststep.work.grooves"):
        log = logging.getLogger(name)
        if not any(isinstance(h, _ToError) for h in log.handlers):
            log.addHandler(_ToError(logging.WARNING))
