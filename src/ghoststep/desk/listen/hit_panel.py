"""The hit that is looked at in Listen: its figures, and what can be said about it, each by a click or a key."""

from collections.abc import Callable, Sequence

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QGridLayout, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from ghoststep.desk.listen.offer_words import words
from ghoststep.desk.listen.voice_keys import VOICE_KEYS
from ghoststep.desk.parts.widgets import label
from ghoststep.music.kit import voice
from ghoststep.music.pattern import Hit
from ghoststep.music.spots import name_at
from ghoststep.session.commands import COMMANDS
from ghoststep.session.document.document import Document, Listening
from ghoststep.work.corrections import bars_of
from ghoststep.work.offers import Offer

_COLUMNS = 3
_SHORT = {
    "hat_closed": "Hat", "hat_half": "Hat half", "hat_open": "Hat open", "hat_pedal": "Pedal", "cross_stick": "X-stick",
    "ride_bell": "Bell",
}  # fmt: skip


class HitPanel(QWidget):
    """`run` gets the name of the command that a button stands for."""

    def __init__(self, run: Callable[[str], object]) -> None:
        super().__init__()
        self._run = run
        self._needs_hit: list[QPushButton] = []
        self._needs_hit_or_offer: list[QPushButton] = []
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(5)
        self.doubts = self._button("heard.doubt", "Next doubt", needs_hit=False)
        self.doubts.setObjectName("main")
        self.offers = self._button("heard.perhaps", "Perhaps", needs_hit=False)
        top = QHBoxLayout()
        top.setSpacing(4)
        top.addWidget(self.doubts, 1)
        top.addWidget(self.offers, 1)
        layout.addLayout(top)
        self.words = label("", "sentence", wrap=True)
        self.words.setMinimumHeight(62)
        self.words.setAlignment(Qt.AlignmentFlag.AlignTop)
        layout.addWidget(self.words)
        self.voices: dict[str, QPushButton] = {}
        grid = QGridLayout()
        grid.setSpacing(3)
        for i, (key, name) in enumerate(VOICE_KEYS):
            button = self._button(f"heard.is_{name}", f"{key}  {_SHORT.get(name, voice(name).label)}")
            button.setCheckable(True)
            button.setStyleSheet("padding: 1px 5px; text-align: left; min-height: 20px;")
            self.voices[name] = button
            grid.addWidget(button, i // _COLUMNS, i % _COLUMNS)
        layout.addLayout(grid)
        row = QHBoxLayout()
        row.setSpacing(4)
        row.addWidget(self._button("heard.right", "Right  (Y)"))
        gone = self._button("heard.gone", "No hit  (Del)")
        self._needs_hit_or_offer.append(gone)
        row.addWidget(gone)
        row.addWidget(self._button("heard.alike", "Alike  (A)"))
        layout.addLayout(row)
        row = QHBoxLayout()
        row.setSpacing(4)
        for name, text in (("heard.spot_back", "◂ Step earlier"), ("heard.spot_on", "Step later ▸")):
            row.addWidget(self._button(name, text))
        layout.addLayout(row)

    def _button(self, name: str, text: str, *, needs_hit: bool = True) -> QPushButton:
        command = COMMANDS[name]
        button = QPushButton(text)
        button.setToolTip(f"{command.text} ({_key(command.keys[0])})")
        button.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        button.clicked.connect(lambda _=False, n=name: self._run(n))
        if needs_hit:
            self._needs_hit.append(button)
        return button

    def show_hits(self, hits: Sequence[Hit], document: Document) -> None:
        """What is known of the chosen hits; what is said goes for all of them."""
        heard = document.listening
        for button in self._needs_hit:
            button.setEnabled(bool(hits))
        for name, button in self.voices.items():
            button.setChecked(bool(hits) and all(h.voice == name for h in hits))
        if heard is None or not hits:
            self.words.setText(
                "Click a hit to hear it. Click beside one to set the cursor, Enter adds a missed hit there."
            )
        else:
            self.words.setText(_one(hits[0], heard) if len(hits) == 1 else _many(hits, document))

    def show_offers(self, chosen: Offer | None, found: Sequence[Offer]) -> None:
        """How many strokes may be one, and what is known of the chosen one."""
        self.offers.setText(f"{len(found)} perhaps  (P)" if found else "")
        self.offers.setVisible(bool(found))
        if chosen is not None:
            self.words.setText(words(chosen, found, voice(chosen.perhaps.voice).label))
        for button in self._needs_hit_or_offer:
            button.setEnabled(button.isEnabled() or chosen is not None)

    def show_doubts(self, count: int) -> None:
        key = _key(COMMANDS["heard.doubt"].keys[0])
        self.doubts.setText(f"{count} doubt{'s' if count > 1 else ''}  ({key})" if count else "No doubts left")
        self.doubts.setEnabled(bool(count))


def _one(hit: Hit, heard: Listening) -> str:
    """A hit in words: its spot, and how and how surely it was heard."""
    assert hit.origin is not None
    frame = heard.explained.groove.pattern.frame
    late = heard.explained.groove.feel.lean_of(hit.voice) + hit.offset_ms
    kind = f", {hit.stroke}" if hit.stroke != "plain" else ", grace note" if hit.grace else ""
    bar, name = frame.spot_at(hit.position_ticks).bar, name_at(hit.position_ticks, frame)
    hits = heard.explained.groove.pattern.hits
    rough = any(hits[i].origin == hit.origin and hits[i].voice == hit.voice for i in heard.explained.rough_velocities())
    velocity = f"about {hit.velocity} (covered)" if rough else str(hit.velocity)
    return (
        f"{voice(hit.voice).label}{kind}, bar {bar}, {name}\n"
        f"{hit.origin.time_s:.3f} s, velocity {velocity}, {hit.role.value}\n"
        f"{abs(late):.1f} ms {'late' if late > 0 else 'early'}, sure to {100 * hit.origin.confidence:.0f} %"
    )


def _many(hits: Sequence[Hit], document: Document) -> str:
    """Several heard hits in words."""
    assert document.listening is not None
    frame = document.listening.explained.groove.pattern.frame
    names = {voice(h.voice).label for h in hits}
    spots = {name_at(h.position_ticks, frame) for h in hits}
    what = names.pop() if len(names) == 1 else "hits"
    at = f" at {spots.pop()}" if len(spots) == 1 else ""
    sure = sorted({f"{100 * h.origin.confidence:.0f}" for h in hits if h.origin}, key=float)
    return (
        f"{what}: {len(hits)} strokes{at} in {bars_of(hits, document)}\n"
        f"sure to {' to '.join(dict.fromkeys((sure[0], sure[-1])))} %\n"
        "What you say goes for all of them."
    )


def _key(key: str) -> str:
    return {"Delete": "Del", "Shift+Left": "Shift ←", "Shift+Right": "Shift →"}.get(key, key)
