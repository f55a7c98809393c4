"""Measure speed and memory: `make bench`. Prints one row a figure; nothing here is a test.

Each figure stands beside a limit: the same amount of work done by a general-purpose library, or what the machine
needs at the least.
"""

import os
import resource
import subprocess
import sys
import tempfile
import time
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from bench import feeling, forming, ground, judging, listening, placing, saying
from bench.timing import ROOT, best_s, offscreen, say

STARTUP = """
import sys, time
began = float(sys.argv[1])
from ghoststep.desk.app.start import make_app, make_window
app = make_app()
window = make_window()
window.show()
app.processEvents()
window.repaint()
print(time.time() - began, time.process_time())
"""
EMPTY = """
import sys, time
began = float(sys.argv[1])
from PySide6.QtWidgets import QApplication, QMainWindow
app = QApplication([])
window = QMainWindow()
window.resize(1280, 800)
window.show()
app.processEvents()
window.repaint()
print(time.time() - began, time.process_time())
"""


def _started_s(code: str) -> tuple[float, float]:
    """Seconds from the command to the painted window, and of processor, the least of four starts."""
    env = {**os.environ, "QT_QPA_PLATFORM": os.environ.get("QT_QPA_PLATFORM", "offscreen")}
    out = []
    for _ in range(4):
        command = [sys.executable, "-c", code, str(time.time())]
        done = subprocess.run(command, capture_output=True, text=True, env=env, check=True)
        out.append([float(x) for x in done.stdout.split()])
    return min(x[0] for x in out), min(x[1] for x in out)


def startup() -> None:
    (took_s, cpu_s), (bare_s, bare_cpu_s) = _started_s(STARTUP), _started_s(EMPTY)
    say("window painted after the command", f"{took_s:.2f} s", f"an empty Qt window: {bare_s:.2f} s")
    say("processor until the window is painted", f"{cpu_s:.2f} s", f"an empty Qt window: {bare_cpu_s:.2f} s")
    say("an empty Qt window, the same", f"{bare_cpu_s:.2f} s")
    with tempfile.TemporaryDirectory() as folder:
        grid, out = Path(folder) / "a.grid.txt", Path(folder) / "b.grid.txt"
        grid.write_text("tempo 100\nsnare ----X-------X---\nkick X-----x-X-------\n", encoding="utf-8")
        words = ["edit", str(grid), "--do", "velocity +4 on snare", "-o", str(out)]
        command = [sys.executable, "-m", "ghoststep", *words]
        found = [_cpu_s(command) for _ in range(5)]
    say("processor of a one-phrase edit", f"{min(found):.2f} s", worst=f"{max(found):.2f} s")
    command = [sys.executable, "-m", "ghoststep", "--version"]
    took = best_s(lambda: subprocess.run(command, capture_output=True, check=True, cwd=ROOT))
    bare = best_s(lambda: subprocess.run([sys.executable, "-c", ""], check=True))
    say("ghost-step --version", f"{took:.2f} s", f"bare Python: {bare:.2f} s")


def _cpu_s(command: list[str]) -> float:
    """Seconds of processor that a command takes, its start included."""
    before = resource.getrusage(resource.RUSAGE_CHILDREN)
    subprocess.run(command, check=True, cwd=ROOT, capture_output=True)
    after = resource.getrusage(resource.RUSAGE_CHILDREN)
    return after.ru_utime + after.ru_stime - before.ru_utime - before.ru_stime


def long_songs() -> None:
    """What a groove of a thousand bars costs: its check, and an edit of all its hits."""
    from ghoststep.judge.check import Terms, checked
    from ghoststep.music.groove import Groove
    from ghoststep.session.document.document import Document
    from ghoststep.session.language.doing import do
    from ghoststep.session.language.edit_context import EditContext

    groove = long_groove(1000)
    assert isinstance(groove, Groove)
    hits = len(groove.pattern.hits)
    began = time.perf_counter()
    report = checked(groove, Terms())
    took_s = time.perf_counter() - began
    say("1000 bars checked, what stands in the list", f"{took_s:.2f} s", f"{hits} hits, off the GUI thread")
    began = time.perf_counter()
    for name in ("likeness", "names", "difficulty", "remarks", "with_limbs"):
        getattr(report, name)
    say("1000 bars checked, all its pages too", f"{took_s + time.perf_counter() - began:.2f} s", "off the GUI thread")
    context = EditContext(Document("long", groove))
    took = best_s(lambda: do(context, "velocity +4 on everything"), times=3)
    say("all velocities of 1000 bars changed", f"{1000 * took:.0f} ms", f"{hits} hits")
    short = EditContext(Document("song", long_groove(64)))  # type: ignore[arg-type]
    took = best_s(lambda: do(short, "letters"), times=3)
    say("letters found in 64 bars", f"{1000 * took:.0f} ms")


def long_groove(bars: int) -> "object":
    from ghoststep.files.textgrid import parse_grid

    lanes = {
        "hat_closed": "xxxxxxxxxxxxx-xx",
        "hat_open": "-------------x--",
        "snare": "----X--o-o--X--o",
        "kick": "X--x--x---X-----",
    }
    return parse_grid("tempo 100\n" + "\n".join(f"{n} {'|'.join([steps] * bars)}" for n, steps in lanes.items()))


def rendering() -> None:
    from ghoststep.feel.perform import perform
    from ghoststep.music.groove import Groove
    from ghoststep.session.document.document import Document
    from ghoststep.session.edits import hit_edits as edits
    from ghoststep.sound.mixdown import Mixdown
    from ghoststep.sound.program import Wish, program
    from ghoststep.sound.render import render
    from ghoststep.sound.sketch import SketchKit

    groove = long_groove(64)
    assert isinstance(groove, Groove)
    performance = perform(groove)
    start = time.perf_counter()
    kit = SketchKit()
    sound = render(performance, kit)
    cold = time.perf_counter() - start
    warm = best_s(lambda: render(performance, kit), times=3)
    seconds = groove.length_s
    added = _added_samples(sound, len(performance))
    say("rendering 64 bars, kit built first", f"{seconds / cold:.0f} x real time", f"{cold:.2f} s for {seconds:.0f} s")
    say(
        "rendering 64 bars, kit ready",
        f"{seconds / warm:.0f} x real time",
        f"bare adding of as many samples: {added:.2f} s",
    )
    loop = long_groove(4)
    assert isinstance(loop, Groove)
    kept, document = Mixdown(), Document("loop", loop)
    program(loop, kit, Wish(), None, kept)

    def edited() -> None:
        nonlocal document
        hit = document.groove.pattern.hits[9]
        _, document = edits.set_velocity(document, [hit], hit.velocity % 100 + 20)
        program(document.groove, kit, Wish(), None, kept)

    took = best_s(edited)
    say(
        "an edit of 4 bars to changed sound, plus one block",
        f"{1000 * (took + 512 / 44100):.0f} ms",
        "one block is 12 ms",
    )


def _added_samples(sound: NDArray[np.float32], hits: int) -> float:
    """Seconds to add half a second of stereo sound as many times as there are hits."""
    piece = np.ones(22050, np.float32)
    left = sound[:, 0].copy()
    starts = np.linspace(0, len(left) - len(piece), hits).astype(int)

    def add() -> None:
        for start in starts:
            left[start : start + len(piece)] += piece
            left[start : start + len(piece)] += piece

    return best_s(add, times=2)


MEMORY = """
from ghoststep.desk.app.start import make_app, make_window
from ghoststep.files.demo import demo_recordings
app = make_app()
window = make_window()
window.show()
window.open(demo_recordings()[0])
while window.studio.busy:
    app.processEvents()
window.go("place")
window.studio.playback.play()
for _ in range(50):
    app.processEvents()
window.studio.playback.stop()
# Not ru_maxrss: that one starts at the size of the process that started this one.
print(float(open('/proc/self/status').read().split('VmHWM:')[1].split()[0]) / 1024)
window.studio.history.mark_saved(window.studio.document)
window.close()
"""


# The day's colours and back, painted; then one sheet of styles laid straight after another.
THEME = """
import time
from ghoststep.desk.app.start import make_app, make_window
app = make_app()
window = make_window()
window.show()
app.processEvents()
took = []
for change in (window.switch_theme, window.switch_theme, lambda: app.setStyleSheet(app.styleSheet() + " ")):
    began = time.perf_counter()
    change()
    app.processEvents()
    window.repaint()
    took.append(time.perf_counter() - began)
print(max(took[:2]), took[2])
window.close()
"""


def window_figures() -> None:
    switched, laid = offscreen(THEME)
    say(
        "day and night exchanged, painted",
        f"{switched:.2f} s",
        f"one sheet of styles straight after another {laid:.2f} s",
    )
    say("peak memory, demo open and played", f"{offscreen(MEMORY)[0]:.0f} MB")


if __name__ == "__main__":
    startup()
    listening.run()
    rendering()
    long_songs()
    placing.run()
    ground.run()
    feeling.run()
    judging.run()
    forming.run()
    saying.saying()
    window_figures()
