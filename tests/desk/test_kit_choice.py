"""The kit of a groove in the window: chosen, undone, kept with the project, told of where it is lost."""

from collections.abc import Callable
from pathlib import Path

import numpy as np
import pytest
import soundfile
from PySide6.QtWidgets import QFileDialog

from ghoststep.desk.app.window import Window
from ghoststep.desk.model.playback import kit_of
from ghoststep.desk.place.groove_page import GroovePage

Until = Callable[[Callable[[], bool]], None]


@pytest.fixture
def page(placed: Window) -> GroovePage:
    place = placed.at("place")
    found = next(p for p in place.pages if isinstance(p, GroovePage))
    place.show_page(place.pages.index(found))
    return found


def pick(page: GroovePage, text: str) -> None:
    index = page._kit.findText(text)
    assert index >= 0, [page._kit.itemText(i) for i in range(page._kit.count())]
    page._kit.setCurrentIndex(index)
    page._kit.activated.emit(index)


def test_a_kit_is_chosen_and_taken_back(placed: Window, page: GroovePage) -> None:
    assert page._kit.currentText() == "depot" and placed.studio.document.kit == ""
    pick(page, "sketch")
    assert placed.studio.document.kit == "sketch" and kit_of("sketch").name == "sketch"
    placed.run("edit.undo")
    assert placed.studio.document.kit == "" and page._kit.currentText() == "depot"


def test_a_folder_is_chosen_and_stands_in_the_list(
    placed: Window, page: GroovePage, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    (tmp_path / "yard drums").mkdir()
    soundfile.write(tmp_path / "yard drums" / "kick.wav", 0.5 * np.ones((900, 1)), 44100)
    monkeypatch.setattr(QFileDialog, "getExistingDirectory", lambda *_: str(tmp_path / "yard drums"))
    pick(page, "A folder of sounds …")
    assert placed.studio.document.kit == str(tmp_path / "yard drums") and page._kit.currentText() == "yard drums"
    monkeypatch.setattr(QFileDialog, "getExistingDirectory", lambda *_: "")
    pick(page, "A folder of sounds …")  # closed without a choice: what it was stands there again
    assert page._kit.currentText() == "yard drums"
    pick(page, "depot")
    assert placed.studio.document.kit == "depot" and page._kit.findText("yard drums") < 0


def test_a_file_that_is_no_kit_changes_nothing(
    placed: Window, page: GroovePage, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    (tmp_path / "bad.sfz").write_text("no header")
    told: list[str] = []
    placed.studio.said.connect(lambda words, bad: told.append(words))
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_: (str(tmp_path / "bad.sfz"), ""))
    pick(page, "An SFZ file …")
    assert placed.studio.document.kit == "" and page._kit.currentText() == "depot"
    assert any("no region" in words for words in told)


def test_a_lost_kit_is_told_and_the_usual_one_plays(placed: Window, until: Until, tmp_path: Path) -> None:
    from dataclasses import replace

    told: list[str] = []
    placed.studio.said.connect(lambda words, bad: told.append(words))
    lost = replace(placed.studio.document, kit=str(tmp_path / "gone.sfz"))
    placed.studio.set_document(lost, None)
    placed.studio.playback.play()
    until(lambda: placed.studio.playback.player.playing)
    assert any("Depot plays instead" in words for words in told)
    placed.studio.playback.stop()
