"""The use cases: open, listen, follow a folder; the same for the window and the commands."""

from typing import TYPE_CHECKING

from ghoststep.lazy import offered

if TYPE_CHECKING:
    from ghoststep.work.folder import listen_folder as listen_folder
    from ghoststep.work.formats import FORMATS as FORMATS
    from ghoststep.work.formats import format_of as format_of
    from ghoststep.work.formats import written as written
    from ghoststep.work.grooves import analysis_of as analysis_of
    from ghoststep.work.grooves import hear_file as hear_file
    from ghoststep.work.grooves import hear_mouth_file as hear_mouth_file
    from ghoststep.work.midi_heard import hear_midi as hear_midi
    from ghoststep.work.opening import open_document as open_document
    from ghoststep.work.opening import open_groove as open_groove

OFFERS = {
    "FORMATS": "formats",
    "analysis_of": "grooves",
    "format_of": "formats",
    "hear_file": "grooves",
    "hear_midi": "midi_heard",
    "hear_mouth_file": "grooves",
    "listen_folder": "folder",
    "open_document": "opening",
    "open_groove": "opening",
    "written": "formats",
}
__getattr__, __dir__ = offered(__name__, OFFERS)
