"""The transport: always in reach, whatever place is shown."""

from collections.abc import Collection
from dataclasses import replace
from functools import partial

from PySide6.QtCore import QSignalBlocker
from PySide6.QtWidgets import QButtonGroup, QFrame, QHBoxLayout, QMenu, QPushButton, QToolButton

from ghoststep.desk.model.studio import Studio
from ghoststep.desk.parts.widgets import label, number, show_number
from ghoststep.music.kit import VOICE_NAMES, voice
from ghoststep.music.spots import name_at
from ghoststep.sound.program import Source

_SOURCES = (
    (Source.RECORDING, "Recording", "Hear the recording"), (Source.GROOVE, "Groove", "Hear the groove"),
    (Source.IN_TURN, "In turn", "Hear recording and groove one after the other"),
    (Source.TOGETHER, "Together", "Hear recording and groove at once, equally loud"),
    (Source.SIDES, "L | R", "Hear the groove left and the recording right"),
)  # fmt: skip
_CLICK_NOTES = (
    ("beat", "Every beat"), ("eighth", "Eighths"), ("triplet", "Triplets"), ("sixteenth", "Sixteenths"),
    ("half", "Every other beat"), ("backbeat", "Only 2 and 4"),
)  # fmt: skip


def muted_words(muted: Collection[str], there: Collection[str]) -> str:
    """Which voices of the groove are not heard: "Muted: kick", "Only snare heard"."""
    gone = [v for v in VOICE_NAMES if v in there and v in muted]
    left = [v for v in VOICE_NAMES if v in there and v not in muted]
    names = " and ".join(voice(v).label.lower() for v in (left if len(left) < len(gone) else gone))
    if not left and gone:
        return "All muted"
    return f"Only {names} heard" if len(left) < len(gone) else f"Muted: {names}" if gone else "Muted"


class Transport(QFrame):
    """Play, what is heard, loop, speed, click and count-in; where it is; and what plays it."""

    def __init__(self, studio: Studio) -> None:
        super().__init__()
        self._studio = studio
        self.setObjectName("bar")
        layout = QHBoxLayout(self)
        layout.setContentsMargins(14, 8, 14, 8)
        layout.setSpacing(8)
        self.play = QPushButton("Play")
        self.play.setObjectName("main")
        self.play.setFixedWidth(96)
        self.play.clicked.connect(studio.playback.toggle)
        layout.addWidget(self.play)
        layout.addSpacing(6)
        self._sources = QButtonGroup(self)
        for i, (_, text, tip) in enumerate(_SOURCES):
            button = QPushButton(text)
            button.setCheckable(True)
            button.setToolTip(tip)
            self._sources.addButton(button, i)
            layout.addWidget(button)
        self._sources.idClicked.connect(lambda i: studio.playback.set_wish(source=_SOURCES[i][0]))
        layout.addSpacing(6)
        self._loop = self._switch("Loop", "Play again from the start of the range (L)", "loop", layout)
        self._click = self._switch("Click", "A click on every counted beat (K)", "click", layout)
        self._click.setPopupMode(QToolButton.ToolButtonPopupMode.MenuButtonPopup)
        self._click.setMenu(self._click_menu())
        self._count = self._switch("Count-in", "One bar of clicks first", "count_in", layout)
        self._speed = number(25, 200, self._set_speed, unit="%", step=5, name="Speed, without change of pitch")
        layout.addWidget(label("Speed", "dim"))
        self._speed.setFixedWidth(72)
        layout.addWidget(self._speed)
        layout.addSpacing(6)
        self._muted = QToolButton()
        self._muted.setToolTip("These are not heard. Click: every voice is heard again.")
        self._muted.clicked.connect(lambda: studio.playback.set_wish(muted=frozenset()))
        layout.addWidget(self._muted)
        self._where = label("", "title")
        self._where.setMinimumWidth(150)
        layout.addWidget(self._where)
        layout.addStretch(1)
        self._device = label("", "dim")
        layout.addWidget(self._device)
        studio.playback.wish_changed.connect(self.show_wish)
        studio.playback.changed.connect(self.show_playing)
        studio.document_changed.connect(self.show_wish)
        self.show_wish()
        self.show_playing()

    def _switch(self, text: str, tip: str, field: str, layout: QHBoxLayout) -> QToolButton:
        button = QToolButton()
        button.setText(text)
        button.setToolTip(tip)
        button.setCheckable(True)
        button.toggled.connect(lambda on: self._studio.playback.set_wish(**{field: on}))
        layout.addWidget(button)
        return button

    def _click_menu(self) -> QMenu:
        """On which notes the click sounds, and bars of silence in it."""
        menu = QMenu(self)
        for notes, text in _CLICK_NOTES:
            menu.addAction(text, partial(self._set_click, notes=notes))
        menu.addSeparator()
        for sounding, silent in ((1, 0), (1, 1), (2, 2), (3, 1)):
            words = f"{sounding} bars on, {silent} silent" if silent else "In every bar"
            menu.addAction(words, partial(self._set_click, sounding=sounding, silent=silent))
        menu.addSeparator()
        for text, db in (("Softer", -3.0), ("Louder", 3.0)):
            menu.addAction(text, partial(self._set_click, db))
        return menu

    def _set_click(self, louder_db: float = 0.0, **fields: object) -> None:
        now = self._studio.playback.wish.click_kind
        level_db = min(max(now.level_db + louder_db, -40.0), 12.0)
        self._studio.playback.set_wish(click=True, click_kind=replace(now, level_db=level_db, **fields))  # type: ignore[arg-type]

    def _set_speed(self, percent: float) -> None:
        self._studio.playback.set_wish(speed=percent / 100)

    def show_wish(self) -> None:
        wish, document = self._studio.playback.wish, self._studio.document
        self._muted.setVisible(bool(wish.muted))
        self._muted.setText(muted_words(wish.muted, document.groove.pattern.voices))
        tape = document.recording is not None and document.listening is not None
        for i, (source, _, _) in enumerate(_SOURCES):
            button = self._sources.button(i)
            button.setEnabled(tape or source is Source.GROOVE)
            button.setChecked(source is (wish.source if tape else Source.GROOVE))
        for button, on in ((self._loop, wish.loop), (self._click, wish.click), (self._count, wish.count_in)):
            with QSignalBlocker(button):
                button.setChecked(on)
        show_number(self._speed, 100 * wish.speed)
        self.show_position(None)

    def show_playing(self) -> None:
        playing = self._studio.playback.player.playing
        self.play.setText("Stop" if playing else "Play")
        self.play.setToolTip("Stop (space)" if playing else "Play (space)")
        output = self._studio.playback.player.output
        self._device.setText(output.name.capitalize() if output.simulated else output.name[:28])
        self._device.setToolTip(
            "There is no sound device, so playing keeps time in silence." if output.simulated else ""
        )
        if not playing:
            self.show_position(None)

    def show_position(self, ticks: float | None) -> None:
        """The place that is heard, or the range that will be."""
        pattern = self._studio.groove.pattern
        frame = pattern.frame
        if ticks is not None:
            beat = frame.beat_start_at(int(ticks))
            source = self._studio.playback.player.source()
            which = f", {source.value}" if source and self._studio.playback.wish.source is Source.IN_TURN else ""
            self._where.setText(f"bar {frame.spot_at(beat).bar}, {name_at(beat, frame)}{which}")
            return
        region = self._studio.choice.range_ticks
        if region is None:
            self._where.setText(f"all {pattern.bars} bars" if pattern.bars > 1 else "1 bar")
            return
        a, b = (frame.beat_start_at(t) for t in (region[0], region[1] - 1))
        first, last = (f"bar {frame.spot_at(t).bar}, {name_at(t, frame)}" for t in (a, b))
        self._where.setText(f"{first} to {last}")
