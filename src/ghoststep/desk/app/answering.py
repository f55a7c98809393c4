"""What phrases ask of the window: to take back, to play, to mute, to show what the check says."""

from typing import TYPE_CHECKING

from PySide6.QtWidgets import QWidget

from ghoststep.desk.model.desk import Desk
from ghoststep.desk.model.playback import Playback
from ghoststep.desk.parts.widgets import asked
from ghoststep.music.kit import VOICE_NAMES
from ghoststep.session.document.document import Document
from ghoststep.sound.click import Click
from ghoststep.sound.program import BUILD_UPS

if TYPE_CHECKING:
    from ghoststep.session.language.edit_context import Ask


def answer(desk: Desk, ask: "Ask") -> None:
    """Do what was asked."""
    studio = desk.studio
    playback = studio.playback
    if ask.what == "undo":
        studio.undo()
    elif ask.what == "redo":
        studio.redo()
    elif ask.what == "play":
        if ask.bars is not None:
            frame = studio.groove.pattern.frame
            studio.choice.set_range((frame.start_of(ask.bars[0]), frame.start_of(ask.bars[1] + 1)))
        playback.play()
    elif ask.what == "stop":
        playback.stop()
    elif ask.what == "speed":
        playback.set_wish(speed=ask.number)
    elif ask.what == "count-in":
        playback.set_wish(count_in=bool(ask.number))
    elif ask.what == "mute":
        playback.set_wish(muted=playback.wish.muted | frozenset(ask.voices))
    elif ask.what == "solo":
        playback.set_wish(muted=frozenset(VOICE_NAMES) - frozenset(ask.voices))
    elif ask.what == "unmute":
        playback.set_wish(muted=frozenset(), resting=frozenset())
    elif ask.what == "rest":
        playback.set_wish(resting=frozenset(ask.player))
    elif ask.what == "build-up":
        playback.set_wish(build_up=BUILD_UPS[ask.player], build_passes=int(ask.number))
    elif ask.what == "click":
        _click(playback, ask)
    elif ask.what == "check":
        desk.go("check")
    elif ask.what == "describe":
        studio.compute("say", lambda document, _progress: _told(document, ask), lambda words: _show(desk, words))


def _click(playback: Playback, ask: "Ask") -> None:
    if ask.player == "off":
        playback.set_wish(click=False)
        return
    sounding, silent = ask.bars or (1, 0)
    notes = playback.wish.click_kind.notes if ask.player == "on" else ask.player
    playback.set_wish(click=True, click_kind=Click(notes, ask.number, max(sounding, 1), silent))


def _told(document: Document, ask: "Ask") -> list[str]:
    from ghoststep.session.say.telling import form_told, told

    return told(document.groove, ask.some) + ([] if ask.some else form_told(document.form))


def _show(desk: Desk, sentences: list[str]) -> None:
    from ghoststep.desk.dialogs.told import ToldDialog

    asked(ToldDialog(sentences, desk if isinstance(desk, QWidget) else None))
