"""The pictures of Listen in the documentation."""

import tempfile
from pathlib import Path

import numpy as np

from ghoststep.desk.model.desk import Desk
from ghoststep.desk.model.picture_steps import opens_demo
from ghoststep.desk.model.pictures import Picture
from ghoststep.files.demo import demo_recordings


def _shown(desk: Desk) -> None:
    desk.go("listen")


def _spectrum(desk: Desk) -> None:
    desk.run("heard.spectrum")
    desk.run("heard.doubt")
    desk.studio.playback.stop()
    desk.at("listen").zoom(2.5)


def _wave_again(desk: Desk) -> None:
    desk.run("heard.spectrum")
    desk.at("listen").zoom(0)


def _doubts_alike(desk: Desk) -> None:
    desk.run("heard.doubt")
    desk.studio.playback.stop()
    desk.run("heard.alike")


def _opens_passage(desk: Desk) -> None:
    """A file of some minutes, made of a demo recording that grows louder and softer again."""
    import soundfile  # only for pictures: not part of the start

    sound, rate = soundfile.read(demo_recordings()[1])
    path = Path(tempfile.mkdtemp()) / "night-ride.wav"
    grown = np.tile(sound, (22, 1)) * np.interp(np.linspace(0, 1, 22 * len(sound)), [0, 0.7, 1], [0.3, 1, 0.5])[:, None]
    soundfile.write(path, grown, rate)
    desk.studio.history.mark_saved(desk.studio.document)
    desk.open(path)


def _taps(desk: Desk) -> None:
    desk.run("file.tap")
    for i, name in enumerate(("kick", "hat_closed", "snare", "hat_closed")):
        desk.at("listen").taps.tap(name, 0.3 * i, 80)


PICTURES = (
    Picture("listen-empty", (_shown,)),
    Picture("listen", (opens_demo(0),)),
    Picture("listen-spectrum", (_spectrum,)),
    Picture("listen-ride", (_wave_again, opens_demo(2), _doubts_alike)),
    Picture("listen-passage", (_opens_passage,)),
    Picture("listen-taps", (_taps,)),
)
