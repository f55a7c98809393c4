"""Figures of what the window waits for, or a command: large grooves, large files and large folders.

`python -m bench.ground`, also part of `make bench`. Rendering runs in a process of its own, so that its memory is told
apart.
"""

import resource
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

from bench.timing import ROOT, say

BAR = ("x-x-x-x-x-x-x-x-", "----X--o-o--X--o", "X------x--X-----")


def rock(bars: int) -> str:
    """A beat of three voices as a text grid."""
    rows = zip(("hat_closed", "snare", "kick"), BAR, strict=True)
    return "tempo 120\n" + "\n".join(f"{name} {'|'.join([bar] * bars)}" for name, bar in rows)


def _once_s(work: Callable[[], object]) -> float:
    started = time.perf_counter()
    work()
    return time.perf_counter() - started


def edits() -> None:
    """What runs on the GUI thread, or did."""
    from ghoststep.craft.ghosts import proposals
    from ghoststep.files.keymap import general_midi_keys
    from ghoststep.files.midi_out import write_midi
    from ghoststep.files.project import save_project
    from ghoststep.files.textgrid import parse_grid
    from ghoststep.judge.hands import sticking
    from ghoststep.session.document.differences import words
    from ghoststep.session.document.document import Document
    from ghoststep.session.edits.commit import opened
    from ghoststep.session.language.doing import commit, do
    from ghoststep.session.language.edit_context import EditContext

    small, large = parse_grid(rock(64)), parse_grid(rock(1000))
    document = opened(Document("x", large))
    say("proposals of ghosts, 64 bars", f"{_once_s(lambda: proposals(small)):.2f} s", "before: 6.5 s")

    def filled() -> None:
        said, after = do(EditContext(document), "fill snare under hat")
        commit(document, (said, after.document))

    say("fill, 1000 bars", f"{_once_s(filled):.2f} s", "before: 6 s")
    say("sticking, 1000 bars", f"{_once_s(lambda: sticking(large)):.2f} s", "before: 4 s")
    softer = tuple(replace(h, velocity=h.velocity - 3) for h in parse_grid(rock(256)).pattern.hits)
    first = parse_grid(rock(256))
    say("difference in words, 4096 hits", f"{_once_s(lambda: words(first, first.changed(hits=softer))):.2f} s", "141 s")
    with tempfile.TemporaryDirectory() as folder:
        midi, project = Path(folder) / "a.mid", Path(folder) / "a.ghoststep"
        took = _once_s(lambda: write_midi(midi, large, general_midi_keys()))
        say("MIDI export, 1000 bars (off the GUI thread)", f"{took:.2f} s", "before: 2 s on it")
        took = _once_s(lambda: save_project(project, document))
        say("saving, 1000 bars (off the GUI thread)", f"{took:.2f} s")


def refusals() -> None:
    """What cannot be read says so soon."""
    from ghoststep.cli.main import main

    with tempfile.TemporaryDirectory() as folder:
        large, grid = Path(folder) / "large.mid", Path(folder) / "a.grid.txt"
        large.write_bytes(b"MThd\0\0\0\6\0\1\0\1\1\xe0MTrk\0\x7f\xff\xff" + b"\0\x99\x24\x40" * 2_000_000)
        say("refusing 8 MB of MIDI", f"{_once_s(lambda: main(['listen', str(large)])):.2f} s", "before: 47 s")
        notes = b"\x10\x99\x24\x40" * 740_000
        large.write_bytes(b"MThd\0\0\0\6\0\1\0\1\1\xe0MTrk\0\x2d\x2a\x84" + notes)
        say("3 MB of nothing but notes", f"{_once_s(lambda: main(['listen', str(large)])):.2f} s")
        grid.write_text(rock(8))
        midi = Path(folder) / "a.mid"
        main(["perform", str(grid), "--midi", str(midi)])
        took = _once_s(lambda: main(["listen", str(midi), "--meter", "64/1", "--ignore-file"]))
        say("listen --meter 64/1", f"{took:.2f} s", "before: 23 s")


def folders() -> None:
    """Names of outputs in a large folder."""
    from ghoststep.work.folder import Outs, _stems, _targets

    with tempfile.TemporaryDirectory() as folder:
        home = Path(folder)
        files = [home / f"loop-{i:04}.wav" for i in range(4000)]
        outs = Outs(home / "out", None, None)

        def named() -> None:
            for stem in _stems(files, home).values():
                _targets(stem, outs)

        say("naming outputs of 4000 files", f"{_once_s(named):.2f} s", "before: 2.1 s, twice")


RENDER = """
import resource, sys, time
from pathlib import Path
from bench.ground import rock
from ghoststep.cli.main import main
folder = Path(sys.argv[1])
(folder / "a.grid.txt").write_text(rock(1000))
began = time.perf_counter()
main(["render", str(folder / "a.grid.txt"), str(folder / "a.wav")])
print(time.perf_counter() - began, resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1000)
"""


def rendering() -> None:
    """A thousand bars of sound in the memory of a few seconds."""
    with tempfile.TemporaryDirectory() as folder:
        command = [sys.executable, "-c", RENDER, folder]
        done = subprocess.run(command, capture_output=True, text=True, cwd=ROOT, check=True)
    took_s, peak_mb = (float(w) for w in done.stdout.split()[-2:])
    say("rendering 1000 bars (33 min)", f"{took_s:.1f} s, {peak_mb:.0f} MB", "before: 2 GB")


def run() -> None:
    rendering()  # first: a new process is told to have had the memory of the one that began it
    edits()
    refusals()
    folders()
    say("peak memory of all but rendering", f"{resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1000:.0f} MB", "-")


if __name__ == "__main__":
    run()
