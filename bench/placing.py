"""Figures of the Place: an edit to changed paint and to changed sound, scrolling, undo, and what history holds.

Run as a module of its own for one figure: `python -m bench.placing paint`; without a word all are run, each in a
process of its own so that memory is told apart.
"""

import sys
import time
from collections.abc import Callable

from bench.timing import ROOT, offscreen, say

LANES = ("splash", "crash", "ride_bell", "ride", "hat_open", "hat_closed", "tom_high", "tom_mid", "snare", "tom_low",
         "kick", "hat_pedal")  # fmt: skip


def full_groove(bars: int, voices: tuple[str, ...] = LANES) -> "object":
    """Every sixteenth of every lane."""
    from ghoststep.music.groove import Groove
    from ghoststep.music.pattern import Hit, Pattern
    from ghoststep.music.time import TempoMap
    from ghoststep.music.touch import role_of

    hits = []
    for step in range(16 * bars):
        for k, name in enumerate(voices):
            velocity = 25 + (step * 37 + k * 11) % 90
            hits.append(Hit(step * 5040, name, velocity, role_of(velocity)))
    return Groove(Pattern(tuple(hits), bars=bars), tempo=TempoMap.constant(100))


def _window(bars: int, voices: tuple[str, ...] = LANES) -> "object":
    from ghoststep.desk.app.start import make_app, make_window
    from ghoststep.desk.model.studio import Studio
    from ghoststep.devices.output import SimulatedOutput
    from ghoststep.music.groove import Groove
    from ghoststep.session.document.document import Document

    app = make_app()
    window = make_window(Studio(SimulatedOutput()))
    window.resize(1280, 800)
    window.show()
    groove = full_groove(bars, voices)
    assert isinstance(groove, Groove)
    window.studio.set_document(Document("full", groove), None)
    window.go("place")
    while window.studio.tasks.running:
        app.processEvents()
    return window


def _middle(values: list[float]) -> float:
    return sorted(values)[len(values) // 2]


def _pressed(window: "object", quarter_px: float, times: int = 40) -> list[float]:
    """Seconds from a key to the painted change, over a walk through the lanes."""
    from PySide6.QtCore import Qt
    from PySide6.QtTest import QTest
    from PySide6.QtWidgets import QApplication

    from ghoststep.desk.app.window import Window

    assert isinstance(window, Window)
    grid = window.at("place").grid
    grid.choice.quarter_px = quarter_px
    grid.refresh()
    grid.viewport().repaint()
    out = []
    shift = Qt.KeyboardModifier.ShiftModifier
    for i in range(times):
        grid.put_cursor(i * 5040 % 80640, i % len(grid.geometry_now().lanes))
        grid.viewport().repaint()
        QApplication.processEvents()
        start = time.perf_counter()
        QTest.keyClick(grid, Qt.Key.Key_Up, shift)  # louder
        grid.viewport().repaint()
        out.append(time.perf_counter() - start)
    assert window.studio.history.undo_words
    return out


def paint() -> None:
    """Key to changed paint with 2 and 16 bars on the screen: middle and worst in ms."""
    window = _window(16)
    for quarter in (0.0, 13.0):
        found = _pressed(window, quarter)
        print(1000 * _middle(found), 1000 * max(found))


def sound() -> None:
    """Key to changed sound: the program made anew while it plays; middle and worst in ms."""
    from ghoststep.music.groove import Groove
    from ghoststep.session.document.document import Document
    from ghoststep.session.edits import hit_edits as edits
    from ghoststep.sound.mixdown import Mixdown
    from ghoststep.sound.program import Wish, program
    from ghoststep.sound.sketch import SketchKit

    groove = full_groove(16)
    assert isinstance(groove, Groove)
    document, kit, kept = Document("full", groove), SketchKit(), Mixdown()
    start = time.perf_counter()
    program(groove, kit, Wish(), None, Mixdown())
    anew = time.perf_counter() - start
    program(groove, kit, Wish(), None, kept)
    out = []
    for i in range(30):
        hit = document.groove.pattern.hits[i * 97]
        start = time.perf_counter()
        _, document = edits.set_velocity(document, [hit], 20 + i)
        program(document.groove, kit, Wish(), None, kept)
        out.append(time.perf_counter() - start)
    print(1000 * _middle(out), 1000 * max(out), 1000 * anew)


def scroll() -> None:
    """A thousand bars of four lanes: each frame of scrolling through them; middle, 99th share and worst in ms."""
    from ghoststep.desk.app.window import Window

    window = _window(1000, ("hat_closed", "snare", "kick", "ride"))
    assert isinstance(window, Window)
    grid = window.at("place").grid
    found = []
    for quarter in (24.0, 100.0):
        grid.choice.quarter_px = quarter
        grid.refresh()
        grid.viewport().repaint()
        bar = grid.horizontalScrollBar()
        for step in (40, 400, 3000):
            bar.setValue(0)
            grid.viewport().repaint()
            for i in range(120):
                start = time.perf_counter()
                bar.setValue(i * step)
                grid.viewport().repaint()
                found.append(time.perf_counter() - start)
    found.sort()
    print(1000 * _middle(found), 1000 * found[round(0.99 * len(found))], 1000 * found[-1])


def undo() -> None:
    """Undo of a change of 10,000 hits, painted; middle and worst in ms."""
    from ghoststep.desk.app.window import Window

    window = _window(160, ("hat_closed", "snare", "kick", "ride"))
    assert isinstance(window, Window)
    window.at("place").do("scale 90 on everything")
    out = []
    for _ in range(8):
        for move in (window.studio.undo, window.studio.redo):
            window.at("place").grid.viewport().repaint()
            start = time.perf_counter()
            move()
            window.at("place").grid.viewport().repaint()
            out.append(time.perf_counter() - start)
    print(1000 * _middle(out), 1000 * max(out))


def history() -> None:
    """MB that 5000 steps of one hit each hold, on 16 full bars, and what 20,000 steps hold (the oldest are dropped)."""
    import tracemalloc

    from ghoststep.music.groove import Groove
    from ghoststep.session.document.document import Document
    from ghoststep.session.document.history import History
    from ghoststep.session.edits import hit_edits as edits
    from ghoststep.session.edits.commit import opened
    from ghoststep.session.language.doing import commit

    groove = full_groove(16)
    assert isinstance(groove, Groove)
    tracemalloc.start()
    history = History(opened(Document("full", groove)), commit)
    for steps in (1000, 4000):
        for i in range(steps):
            hit = history.document.groove.pattern.hits[i * 7 % 3000]
            words, document = edits.set_velocity(history.document, [hit], 1 + (hit.velocity + 1) % 126)
            history.do(words, document)
        print(tracemalloc.get_traced_memory()[0] / 1e6)


FIGURES: dict[str, Callable[[], None]] = {
    "paint": paint, "sound": sound, "scroll": scroll, "undo": undo, "history": history,
}  # fmt: skip


def run() -> None:
    def found(name: str) -> list[float]:
        return offscreen(f"from bench.placing import FIGURES; FIGURES['{name}']()")

    two, two_worst, sixteen, sixteen_worst = found("paint")
    frame = "one frame at 60 Hz is 16.7 ms"
    say("key to paint, 2 of 16 full bars on screen", f"{two:.1f} ms", frame, worst=f"{two_worst:.1f} ms")
    say("key to paint, 16 full bars of 12 voices on screen", f"{sixteen:.1f} ms", worst=f"{sixteen_worst:.1f} ms")
    middle, worst, anew = found("sound")
    say(
        "key to sound, 16 full bars of 12 voices",
        f"{middle:.0f} ms",
        f"mixed anew {anew:.0f} ms",
        worst=f"{worst:.0f} ms",
    )
    middle, most, worst = found("scroll")
    say("a frame of scrolling, 1000 bars", f"{middle:.1f} ms", f"99 % under {most:.1f} ms", worst=f"{worst:.1f} ms")
    middle, worst = found("undo")
    say("undo of a change of 10,000 hits, painted", f"{middle:.0f} ms", worst=f"{worst:.0f} ms")
    some, many = found("history")
    say("history of 1000 steps, 3072 hits", f"{some:.0f} MB", f"5000 steps {many:.0f} MB")


if __name__ == "__main__":
    sys.path.insert(0, str(ROOT))
    if len(sys.argv) > 1:
        FIGURES[sys.argv[1]]()
    else:
        run()
