"""Reading and writing: sound, MIDI, text grids, projects, analyses. Every door checks what comes in."""

from typing import TYPE_CHECKING

from ghoststep.lazy import offered

if TYPE_CHECKING:
    from ghoststep.files.feel_file import read_feel as read_feel
    from ghoststep.files.feel_file import write_feel as write_feel
    from ghoststep.files.keymap import KeyMap as KeyMap
    from ghoststep.files.keymap import general_midi_keys as general_midi_keys
    from ghoststep.files.keymap import read_keys as read_keys
    from ghoststep.files.midi_in import groove_of as groove_of
    from ghoststep.files.midi_in import read_midi as read_midi
    from ghoststep.files.midi_out import write_midi as write_midi
    from ghoststep.files.project import load_project as load_project
    from ghoststep.files.project import save_project as save_project
    from ghoststep.files.sound import read_recording as read_recording
    from ghoststep.files.sound_out import write_sound as write_sound
    from ghoststep.files.textgrid import parse_grid as parse_grid
    from ghoststep.files.textgrid import parse_text as parse_text
    from ghoststep.files.textgrid import read_grid as read_grid
    from ghoststep.files.textgrid_out import grid_text as grid_text
    from ghoststep.files.textgrid_out import write_grid as write_grid

OFFERS = {
    "KeyMap": "keymap",
    "general_midi_keys": "keymap",
    "grid_text": "textgrid_out",
    "groove_of": "midi_in",
    "load_project": "project",
    "parse_grid": "textgrid",
    "parse_text": "textgrid",
    "read_feel": "feel_file",
    "read_grid": "textgrid",
    "read_keys": "keymap",
    "read_midi": "midi_in",
    "read_recording": "sound",
    "save_project": "project",
    "write_feel": "feel_file",
    "write_grid": "textgrid_out",
    "write_midi": "midi_out",
    "write_sound": "sound_out",
}
__getattr__, __dir__ = offered(__name__, OFFERS)
