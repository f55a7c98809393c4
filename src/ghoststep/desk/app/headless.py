"""No display: the same start-up off screen, the main job on the demo, and what was written."""

import os
import tempfile
from pathlib import Path

from ghoststep.music.errors import InputError

_PATIENCE_MS = 60_000


def run_without_display(file: Path | None, *, demo: bool, out: Path | None = None) -> int:
    """Start the real window off screen, do the main job and say what was written.

    out: the folder that is written to; a new one of its own among the temporary ones where none is named.

    Raises
    ------
    InputError
        Where no demo was asked for, since a window nobody sees is of no use.
    """
    if not demo:
        raise InputError(
            "There is no display to open a window on. Use the commands without a window (ghost-step --help), or set"
            " DISPLAY."
        )
    os.environ["QT_QPA_PLATFORM"] = "offscreen"
    print("There is no display, so the demo runs off screen.")
    from ghoststep.desk.app.places import PLACES
    from ghoststep.desk.app.start import make_app, make_window
    from ghoststep.files.analysis import write_analysis
    from ghoststep.files.demo import demo_recordings
    from ghoststep.files.midi_out import write_midi
    from ghoststep.files.places import made
    from ghoststep.files.project import save_project
    from ghoststep.listen.words import summary
    from ghoststep.work.grooves import analysis_of

    out = made(out) if out is not None else Path(tempfile.mkdtemp(prefix="ghost-step-demo-"))
    app = make_app()
    window = make_window()
    window.resize(1280, 800)
    window.show()
    recording = file or demo_recordings()[0]
    _listened(window, recording)
    app.processEvents()
    studio = window.studio
    heard = studio.document.listening
    if heard is None:
        raise InputError(window.message or f"{recording.name} could not be listened to.")
    name = studio.document.name
    written = [out / f"{name}{ending}" for ending in (".ghoststep", ".json", ".mid")]
    write_analysis(out / f"{name}.json", analysis_of(studio.document))
    write_midi(out / f"{name}.mid", studio.groove, studio.keys)
    save_project(out / f"{name}.ghoststep", studio.document)
    for place in PLACES:
        window.go(place)
        app.processEvents()
        window.grab().save(str(out / f"{place}.png"))
        written.append(out / f"{place}.png")
    print(f"{name}: {summary(heard.explained)}")
    studio.close()
    for made_file in written:
        print(f"wrote {made_file}")
    return 0


def _listened(window: "object", recording: Path) -> None:
    """Open a recording and wait until it is heard or refused."""
    from PySide6.QtCore import QEventLoop, QTimer

    from ghoststep.desk.app.window import Window

    assert isinstance(window, Window)
    loop = QEventLoop()
    ended = window.studio.tasks.busy_changed
    ended.connect(lambda words, _share: loop.quit() if not words else None)
    QTimer.singleShot(_PATIENCE_MS, loop.quit)
    window.open(recording)
    loop.exec()
