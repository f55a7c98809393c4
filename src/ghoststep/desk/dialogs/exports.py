"""Handing on what is open: MIDI, sound, text grid, and the key map for MIDI. Trouble is said and changes nothing."""

from collections.abc import Callable
from pathlib import Path

from ghoststep.desk.model.studio import Studio
from ghoststep.files.keymap import write_keys
from ghoststep.files.places import keys_file, made
from ghoststep.music.errors import InputError


def export_midi(studio: Studio, path: Path) -> bool:
    from ghoststep.files.midi_out import write_midi

    if path.suffix.lower() not in (".mid", ".midi"):
        path = path.with_name(path.name + ".mid")
    try:
        written = write_midi(path, studio.groove, studio.keys)
    except InputError as error:
        studio.said.emit(str(error), True)
        return False
    lead = " It begins with one empty bar, since a hit is earlier than bar 1." if written.lead_bars else ""
    studio.said.emit(f"{written.notes} note{'' if written.notes == 1 else 's'} written to {path.name}.{lead}", False)
    return True


def export_sound(studio: Studio, path: Path) -> None:
    from ghoststep.feel.perform import perform
    from ghoststep.files.sound import write_sound
    from ghoststep.sound.render import render

    groove, kit = studio.groove, studio.kit

    def work(progress: Callable[[float], None]) -> str:
        played = perform(groove)
        lead_s = max(0.0, -float(played.onset_s.min(initial=0.0)))
        write_sound(path, render(played, kit, lead_s=lead_s, progress=progress), kit.rate)
        return f"{groove.length_s:.1f} s of sound written to {path.name}."

    studio.in_background(work, done=lambda words: studio.said.emit(words, False))


def export_grid(studio: Studio, path: Path) -> bool:
    from ghoststep.files.textgrid import write_grid

    try:
        write_grid(path, studio.groove)
    except InputError as error:
        studio.said.emit(str(error), True)
        return False
    studio.said.emit(f"Written to {path.name}.", False)
    return True


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
