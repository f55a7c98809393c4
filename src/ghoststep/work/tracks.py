"""Several files of one performance, a track per microphone or per drum, listened to together."""

import io
from collections.abc import Sequence
from dataclasses import replace
from pathlib import Path

import soundfile

from ghoststep.files.safe import shown
from ghoststep.files.sound import read_recording
from ghoststep.listen.bars.reading import Hints
from ghoststep.listen.entries.tracks import Track, as_long, listen_together, mixed
from ghoststep.listen.signal.spectrum import Floats
from ghoststep.listen.way import groove_of
from ghoststep.music.errors import InputError
from ghoststep.session.document.document import Document, Recording
from ghoststep.work.formats import Holds, holds, plain_name
from ghoststep.work.grooves import document_of
from ghoststep.work.hits_heard import Progress

_TOLD_S = 0.15  # what ends earlier by less is nothing to tell


def hear_tracks(paths: Sequence[Path], hints: Hints, progress: Progress = lambda share: None) -> Document:
    """Listen to several sound files as tracks of one performance; the document's recording is their mix.

    Raises
    ------
    InputError
        Where one cannot be read, is no sound, or they are not of one rate, or one is more than twice as long.
    """
    for path in paths:
        if holds(path) is not Holds.SOUND:
            raise InputError(
                f"{shown(path)} is no sound file: several files are listened to together, as tracks of one performance."
            )
    recordings = [read_recording(path) for path in paths]
    progress(0.1)
    tracks = [Track(r.name, r.samples, r.rate) for r in recordings]
    ends = _ends(tracks)
    tracks = as_long(tracks)
    mix, rate = mixed([t for t in tracks if not t.is_click] or tracks)
    heard, explained = groove_of(listen_together(tracks, progress=progress), hints, progress=progress)
    progress(1.0)
    known = [f"{t.name} as {'click' if t.is_click else t.group}" for t in tracks if t.group or t.is_click]
    remark = f"{len(tracks)} tracks were listened to together" + (f": {', '.join(known)}." if known else ".") + ends
    name = _common_name(paths)
    document = document_of(heard, explained, _recording(f"{name}.wav", mix, rate), name, hints)
    assert document.listening is not None
    return replace(document, listening=replace(document.listening, remarks=(remark, *document.listening.remarks)))


def _ends(tracks: Sequence[Track]) -> str:
    """A sentence on tracks that end before the others."""
    longest = max(t.length_s for t in tracks)
    short = [f"{t.name} {longest - t.length_s:.2f} s" for t in tracks if longest - t.length_s > _TOLD_S]
    more = f" and {len(short) - 3} more" if len(short) > 3 else ""
    return f" Before the others end {', '.join(short[:3])}{more}: silence was put there." if short else ""


def _common_name(paths: Sequence[Path]) -> str:
    """What the names have in common, else the name of their folder."""
    names = [plain_name(p) for p in paths]
    length = next((i for i in range(min(map(len, names))) if len({n[i] for n in names}) > 1), min(map(len, names)))
    common = names[0][:length].rstrip(" -_.")
    return common if len(common) >= 3 else paths[0].resolve().parent.name or "Tracks"


def _recording(name: str, mix: Floats, rate: int) -> Recording:
    """The mix as a recording, with the bytes of a file of floating point samples, so that nothing is clipped."""
    samples = mix[:, None]
    data = io.BytesIO()
    soundfile.write(data, samples, rate, format="WAV", subtype="FLOAT")
    return Recording(name, data.getvalue(), samples, rate)
