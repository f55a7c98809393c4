"""Feels of files and of the shelf, and feels laid on grooves."""

from collections.abc import Collection
from pathlib import Path

from ghoststep.feel.measure import Measured, measured
from ghoststep.feel.transfer import laid_on
from ghoststep.files.feel_file import FEEL_SUFFIX, read_feel
from ghoststep.files.feels import feel_named
from ghoststep.files.keymap import KeyMap
from ghoststep.listen.reading import Hints
from ghoststep.music.feel import Feel
from ghoststep.music.groove import Groove
from ghoststep.work.grooves import Progress, hear_file, is_listenable, open_groove, plain_name


def is_feel(path: Path) -> bool:
    return path.name.lower().endswith(FEEL_SUFFIX)


def measured_file(path: Path, keys: KeyMap, progress: Progress = lambda share: None) -> tuple[Measured, str]:
    """The feel of what is played in a recording, a MIDI file, a table, a project or a text grid, and its name.

    What can be listened to is: swing is then told from straight notes that are late.

    Raises
    ------
    InputError
        Where the file cannot be read or holds no stroke.
    """
    heard = hear_file(path, keys, Hints(), progress).groove if is_listenable(path) else open_groove(path, keys)
    return measured(heard), plain_name(path)


def feel_from(text: str, keys: KeyMap) -> tuple[Feel, str]:
    """A feel by the name of its file or by its name on the shelf; or that of a recording or groove; and its name."""
    path = Path(text)
    if is_feel(path):
        feel, name, _ = read_feel(path)
        return feel, name
    if path.exists():
        found, name = measured_file(path, keys)
        return found.feel, name
    shelved = feel_named(text)
    return shelved.feel, shelved.name


def laid(
    feel: Feel, groove: Groove, touch_percent: float, time_percent: float, voices: Collection[str] | None = None
) -> tuple[Groove, tuple[str, ...]]:
    """A groove with a player's feel laid on it, each so far in percent; and how it was mapped."""
    new, words = laid_on(feel, groove, touch=touch_percent / 100, time=time_percent / 100, voices=voices)
    return groove.changed(feel=new), words
