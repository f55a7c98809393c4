"""Handing on what is open: MIDI, sound, text grid, and the key map for MIDI.

All are written off the GUI thread, by the same use cases as the commands; trouble is said and changes nothing.
"""

from collections.abc import Callable
from pathlib import Path

from ghoststep.desk.model.studio import Studio
from ghoststep.desk.model.tasks import Progress
from ghoststep.files.keymap import write_keys
from ghoststep.files.places import keys_file, made
from ghoststep.files.safe import shown
from ghoststep.music.errors import InputError
from ghoststep.session.words import count


def _say(studio: Studio) -> Callable[[str], None]:
    return lambda words: studio.said.emit(words, False)


def export_midi(studio: Studio, path: Path) -> None:
    from ghoststep.files.midi_out import LEAD_WORDS, write_midi
    from ghoststep.work.forms import markers_of

    groove, keys = studio.groove, studio.keys
    markers = markers_of(studio.document)

    def work(_progress: Progress) -> str:
        written = write_midi(path, groove, keys, markers=markers)
        lead = f" It {LEAD_WORDS}." if written.lead_bars else ""
        return f"{count(written.notes, 'note')} written to {shown(path)}.{lead}"

    studio.in_background(work, done=_say(studio), words=f"Writing {shown(path)}")


def export_sound(studio: Studio, path: Path) -> None:
    from ghoststep.work.rendering import Rendering, render_to

    groove, kit = studio.groove, studio.kit

    def work(progress: Progress) -> str:
        what = Rendering(groove, kit)
        length_s = render_to(path, what, progress=progress)
        lead = f" {what.lead_words.capitalize()}." if what.lead_words else ""
        return f"{length_s:.1f} s of sound written to {shown(path)}.{lead}"

    studio.in_background(work, done=_say(studio), words=f"Writing {shown(path)}")


def export_grid(studio: Studio, path: Path) -> None:
    from ghoststep.files.safe import write_text
    from ghoststep.work.forms import only_in_project, text_of

    document = studio.document

    def work(_progress: Progress) -> str:
        write_text(path, text_of(document))
        return f"Written to {shown(path)}. {only_in_project(document)}".rstrip()

    studio.in_background(work, done=_say(studio))


def make_key_map(studio: Studio) -> None:
    """Write the key map to where the user can edit it, unless it is there already; it is read at the next start."""
    path = keys_file()
    try:
        if not path.exists():
            made(path.parent)
            write_keys(path, studio.keys)
    except InputError as error:
        studio.said.emit(str(error), True)
        return
    studio.said.emit(f"Edit {path}: each row is a MIDI key and its voice. It is read at the next start.", False)


EXPORTS: dict[str, Callable[[Studio, Path], object]] = {
    "midi": export_midi,
    "sound": export_sound,
    "grid": export_grid,
}
