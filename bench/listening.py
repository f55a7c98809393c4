"""Listening measured on one core: speed by length, memory, start-up, and a general-purpose audio library beside it.

The library (librosa) lives in an environment of its own, `build/bench`, made by `make bench`; without it its column is
left out. Each measurement is a process of its own with one thread, so that the figures are those of one core.
"""

import os
import subprocess
import sys
import tempfile
from pathlib import Path

import numpy as np
import soundfile

from bench.timing import ROOT, say

LIBRARY_PYTHON = ROOT / "build" / "bench" / "bin" / "python"
_ONE_CORE = dict.fromkeys(("OPENBLAS_NUM_THREADS", "OMP_NUM_THREADS", "MKL_NUM_THREADS", "NUMBA_NUM_THREADS"), "1")
MINUTES = (0.2, 1, 4, 10)

OURS = """
import sys, time
from pathlib import Path
from ghoststep.work.grooves import hear_file
from ghoststep.files.keymap import general_midi_keys
from ghoststep.listen.bars.reading import Hints
path = Path(sys.argv[1])
if sys.argv[2] == "warm":
    hear_file(Path(sys.argv[3]), general_midi_keys(), Hints())
start = time.perf_counter()
document = hear_file(path, general_midi_keys(), Hints(), keep_file=False)
took = time.perf_counter() - start
peak = float(open('/proc/self/status').read().split('VmHWM:')[1].split()[0]) / 1024
print(took, peak, len(document.groove.pattern.hits), document.groove.tempo.main_bpm)
"""
LIBRARY = """
import sys, time
import librosa
sound, rate = librosa.load(sys.argv[3], sr=44100)
librosa.onset.onset_detect(y=sound, sr=rate); librosa.beat.beat_track(y=sound, sr=rate)
sound, rate = librosa.load(sys.argv[1], sr=44100)
start = time.perf_counter()
found = librosa.onset.onset_detect(y=sound, sr=rate)
middle = time.perf_counter()
librosa.beat.beat_track(y=sound, sr=rate)
end = time.perf_counter()
print(middle - start, end - middle, len(found), 0)
"""


def _figures(python: Path, code: str, *words: str) -> list[float]:
    env = {**os.environ, **_ONE_CORE, "PYTHONPATH": str(ROOT / "src")}
    done = subprocess.run([str(python), "-c", code, *words], capture_output=True, text=True, env=env, check=True)
    return [float(x) for x in done.stdout.split()[-4:]]


def run() -> None:
    """Print the figures."""
    from ghoststep.files.demo import demo_recordings

    demo = demo_recordings()[0]
    sound, rate = soundfile.read(demo, dtype="float32")
    with tempfile.TemporaryDirectory() as folder:
        for minutes in MINUTES:
            path = Path(folder) / f"{minutes}.wav"
            wanted = round(minutes * 60 * rate)
            soundfile.write(path, np.resize(sound, (wanted, sound.shape[1])), rate, subtype="PCM_16")
            took, peak, hits, _ = _figures(Path(sys.executable), OURS, str(path), "warm", str(demo))
            beside = ""
            if LIBRARY_PYTHON.exists():
                onsets, beats, *_ = _figures(LIBRARY_PYTHON, LIBRARY, str(path), "warm", str(demo))
                beside = f"librosa onsets {60 * minutes / onsets:.0f} x, beats {60 * minutes / beats:.0f} x"
            say(f"listening to {60 * minutes:.0f} s, everything, one core", f"{60 * minutes / took:.0f} x", beside)
            say(f"  peak memory of {60 * minutes:.0f} s", f"{peak:.0f} MB", f"{hits:.0f} hits in {took:.1f} s")
        _start_up(demo, Path(folder))


def _start_up(demo: Path, folder: Path) -> None:
    """The command from typing to done, for half a second of sound: nearly all of it is starting."""
    import time

    sound, rate = soundfile.read(demo, dtype="float32")
    short = folder / "short.wav"
    soundfile.write(short, sound[rate // 4 : rate], rate)
    out = []
    for _ in range(4):
        start = time.perf_counter()
        command = [sys.executable, "-m", "ghoststep", "listen", str(short)]
        subprocess.run(command, capture_output=True, check=True, env={**os.environ, "PYTHONPATH": str(ROOT / "src")})
        out.append(time.perf_counter() - start)
    say("ghost-step listen on 0.75 s of sound, command to end", f"{min(out):.2f} s")


if __name__ == "__main__":
    run()
