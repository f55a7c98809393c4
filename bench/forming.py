"""How good the form is: bars grouped and sections found in made songs, changes named, answers; and its speed."""

import random
import tempfile
from dataclasses import replace
from pathlib import Path

from bench.parts import playable
from bench.songs import grouped_right, made
from bench.timing import best_s, offscreen, say
from ghoststep.files.keymap import general_midi_keys
from ghoststep.files.textgrid import parse_text
from ghoststep.judge.check import Terms, impossible
from ghoststep.judge.form_found import found_form
from ghoststep.listen.bars.reading import Hints
from ghoststep.music.form import Form
from ghoststep.music.groove import Groove
from ghoststep.music.unrolled import bars_of
from ghoststep.session.form.plain import without_keys
from ghoststep.session.language.forms.answering import answers
from ghoststep.session.language.forms.variation import changes_between
from ghoststep.session.language.forms.words import changed_by
from ghoststep.session.language.forms.words import song as played
from ghoststep.sound.sketch import SketchKit
from ghoststep.work.grooves import hear_file
from ghoststep.work.rendering import Rendering, render_to

_FIRST = 2026
_OPEN = """
import sys, time
from PySide6.QtWidgets import QApplication
from bench.forming import long_song
from ghoststep.desk.app.start import make_app, make_window
from ghoststep.session.document.document import Document
app = make_app()
window = make_window()
window.resize(1280, 800)
window.show()
window.studio.set_document(Document("x", long_song()[1], form=long_song()[0]), None)
app.processEvents()
began = time.perf_counter()
window.go("form")
app.processEvents()
window.grab()
print(time.perf_counter() - began)
"""

_EDITS = """
import statistics, sys, time
from bench.forming import long_song
from ghoststep.desk.app.start import make_app, make_window
from ghoststep.session.document.document import Document
app = make_app()
window = make_window()
window.resize(1280, 800)
window.show()
form, groove = long_song()
window.studio.set_document(Document("x", groove, form=form), None)
window.go("form")
app.processEvents()
view = window.at("form").map.viewport()
found = []
for _ in range(15):
    time.sleep(0.3)  # what the last edit set going has ended
    app.processEvents()
    began = time.perf_counter()
    {edit}
    view.repaint()
    found.append(time.perf_counter() - began)
    app.processEvents()
    window.studio.undo()
    app.processEvents()
print(min(found), statistics.median(found), max(found))
"""
_OF_FORM = {
    "a stroke put into one of three parts (a third of the bars)": 'window.studio.say("place cowbell 2 bars 2")',
    "a stroke put into the base (all 300 bars)": 'window.studio.say("place cowbell 2 bars 5")',
    "a part once more (all bars behind it move)": 'window.run("form.again")',
}


def long_song() -> tuple[Form, Groove]:
    """A form of 300 bars in 12 sections, and its groove."""
    bar = "hat_closed x-x-x-x-x-x-x-x-\nsnare ----X--o----X---\nkick X-----x---x-----\n"
    text = f"tempo 104\npart A\n{bar}part B = A\n  move kick 3& to 3\npart C = A\n  remove kick at 3&\n"
    text += "".join(f"section s{k} = A B A C A x21\n" for k in range(12))
    form, groove = parse_text(text)
    assert form is not None
    return form, groove


def run() -> None:
    _songs()
    _answers()
    say("300 bars in 12 sections opened in Form", f"{min(offscreen(_OPEN)):.2f} s", "0.3 asked")
    for what, edit in _OF_FORM.items():
        best, middle, worst = (1000 * s for s in offscreen(_EDITS.replace("{edit}", edit)))
        say(
            f"edit to paint in Form: {what}",
            f"{best:.0f}, {middle:.0f}, {worst:.0f} ms",
            "16 asked; best, median, worst",
        )
    form, groove = long_song()
    say("unrolled", f"{best_s(lambda: played(form, groove), times=3):.3f} s")


def _songs() -> None:
    right, found, wrong, missed = [], 0, 0, 0
    for seed in range(_FIRST, _FIRST + 100):
        song = made(seed)
        form = found_form(song.groove)
        row = [form.letter_of(bar) for bar in range(1, song.groove.pattern.bars + 1)]
        right.append(grouped_right(song.letters, row))
        starts, true = {s.first_bar for s in form.sections}, set(song.starts)
        found, wrong, missed = found + len(starts & true), wrong + len(starts - true), missed + len(true - starts)
    say("bars grouped right, 100 songs of clean hits", f"{100 * sum(right) / len(right):.1f} %", "95 asked")
    told = f"{100 * found / (found + wrong):.1f} % of those told, {100 * found / (found + missed):.1f} % of those there"
    say("section borders right", told, "85 asked")


def from_sound(count: int = 12, first: int = 100) -> None:
    """The same from sound: each song rendered on the built-in kit with 4 ms of looseness, and listened to."""
    right, found, wrong, missed = [], 0, 0, 0
    kit, folder = SketchKit(), Path(tempfile.mkdtemp())
    for seed in range(first, first + count):
        song, path = made(seed), folder / f"{seed}.wav"
        render_to(path, Rendering(song.groove.changed(feel=replace(song.groove.feel, loose_ms=4.0)), kit))
        form = found_form(hear_file(path, general_midi_keys(), Hints()).groove)
        heard = [p for s in form.sections for p in s.letters][: len(song.letters)]
        right.append(grouped_right(song.letters[: len(heard)], heard))
        starts, true = {s.first_bar for s in form.sections}, set(song.starts)
        found, wrong, missed = found + len(starts & true), wrong + len(starts - true), missed + len(true - starts)
    say(f"bars grouped right, {count} songs from sound", f"{100 * sum(right) / len(right):.1f} %", "85 asked")
    told = f"{100 * found / (found + wrong):.1f} % of those told, {100 * found / (found + missed):.1f} % of those there"
    say("section borders right, from sound", told, "85 asked")


def _answers() -> None:
    rng = random.Random(_FIRST)
    least, true, playable_ones, total = 99, 0, 0, 0
    for _ in range(200):
        groove = playable(rng, 4)
        question = groove.changed(pattern=bars_of(without_keys(groove.pattern), 1, rng.choice([1, 2, 4])))
        found = answers(question, Terms())
        least = min(least, len(found))
        hard = impossible(question, Terms())
        for a in found:
            back = changes_between(a.pattern, question.pattern)
            total += 1
            true += changed_by(a.pattern, back.phrases) == question.pattern
            playable_ones += impossible(question.changed(pattern=a.pattern), Terms()) <= hard
    say("answers to 200 grooves, the fewest", f"{least}", "5 asked")
    say("answers whose words lead back; that can be played", f"{true} and {playable_ones} of {total}", "all asked")
