"""An SFZ file cut into headers and their words: includes and defines followed, comments dropped.

After the description of the format by its maker (SFZ format 1, and the directives that came later).
"""

import re
from dataclasses import dataclass, field
from itertools import zip_longest
from pathlib import Path

from ghoststep.files.safe import read_bytes, shown
from ghoststep.music.errors import InputError

HEADERS = ("control", "global", "master", "group", "region", "curve", "effect", "midi", "sample")
_MOST_BYTES = 20_000_000
_MOST_FILES = 200
_MOST_HEADERS = 60_000
_TOKEN = re.compile(r"<(\w+)>|([A-Za-z_#$][\w$#]*)=")
_DEFINE = re.compile(r"^[ \t]*#define[ \t]+(\$\w+)[ \t]+(\S+)[ \t]*$")
_INCLUDE = re.compile(r'^[ \t]*#include[ \t]+"([^"\n]+)"')
_COMMENT = re.compile(r"/\*.*?\*/", re.DOTALL)


@dataclass
class Header:
    """A header with its words in their order, and the line where it stands."""

    name: str
    where: str
    words: dict[str, str] = field(default_factory=dict)


class SfzReader:
    """Reads one kit: what it includes counts against the same limits, and nothing outside its folder is read."""

    def __init__(self, path: Path) -> None:
        self.root = path.resolve().parent
        self._defines: dict[str, str] = {}
        self._read = 0
        self.headers: list[Header] = []
        self._file(path, ())

    def inside(self, name: str, beside: Path | None = None) -> Path:
        """The file of a name in the kit; both slashes are read.

        Raises
        ------
        InputError
            Where it leads outside the folder of the kit.
        """
        found = ((beside or self.root) / name.replace("\\", "/")).resolve()
        if not found.is_relative_to(self.root):
            raise InputError(f"'{name}' leads outside the folder of the kit, so it is not read.")
        return found

    def _file(self, path: Path, within: tuple[Path, ...]) -> None:
        self._read += 1
        if path.resolve() in within:
            raise InputError(f"{path.name} includes itself, by way of {' and '.join(p.name for p in within)}.")
        if self._read > _MOST_FILES:
            raise InputError(f"The kit includes more than {_MOST_FILES} files.")
        data = read_bytes(path, limit_bytes=_MOST_BYTES)
        if b"\0" in data[:4096]:
            raise InputError(f"{shown(path)} is no SFZ file: it is not text.")
        text = _COMMENT.sub(lambda found: "\n" * found.group().count("\n"), data.decode("utf-8", "replace"))
        for number, line in enumerate(text.splitlines(), 1):
            line = re.sub(r"//.*$", "", line)
            if define := _DEFINE.match(line):
                self._defines[define[1]] = define[2]
            elif include := _INCLUDE.match(line):
                name = self._defined(include[1])
                file = self.inside(name, path.resolve().parent)
                if not file.is_file():  # includes are also counted from the kit's own folder
                    file = self.inside(name)
                if not file.is_file():
                    raise InputError(f"{path.name}, line {number}: '{name}', which it includes, is not there.")
                self._file(file, (*within, path.resolve()))
            else:
                self._line(self._defined(line), f"{path.name}, line {number}")

    def _defined(self, text: str) -> str:
        for name in sorted(self._defines, key=len, reverse=True) if "$" in text else ():
            text = text.replace(name, self._defines[name])
        return text

    def _line(self, line: str, where: str) -> None:
        found = list(_TOKEN.finditer(line))
        for one, following in zip_longest(found, found[1:]):
            if one[1]:
                if len(self.headers) >= _MOST_HEADERS:
                    raise InputError(f"The kit has more than {_MOST_HEADERS} regions and groups.")
                self.headers.append(Header(one[1].lower(), where))
                continue
            value = line[one.end() : following.start() if following else len(line)].strip()
            if not self.headers:
                raise InputError(f"{where}: '{one[2]}' stands before the first header, such as <region>.")
            self.headers[-1].words[one[2].lower() if one[2] != "default_path" else one[2]] = value
