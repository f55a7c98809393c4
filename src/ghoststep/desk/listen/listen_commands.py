"""Setting right what was heard: the commands of the Listen place, each on a key of its own."""

from collections.abc import Callable
from typing import TYPE_CHECKING

from ghoststep.desk.dialogs import questions
from ghoststep.desk.model.command_table import command
from ghoststep.music.kit import voice
from ghoststep.music.pattern import Hit
from ghoststep.session.document.document import Document
from ghoststep.session.edits.hit_edits import Edit
from ghoststep.work import corrections as listening

if TYPE_CHECKING:
    from ghoststep.desk.app.window import Window

# Which key says that a hit is which voice.
VOICE_KEYS: tuple[tuple[str, str], ...] = (
    ("1", "kick"), ("2", "snare"), ("3", "cross_stick"), ("4", "hat_closed"), ("5", "hat_half"), ("6", "hat_open"),
    ("7", "hat_pedal"), ("8", "ride"), ("9", "crash"), ("0", "tom_mid"), ("U", "tom_high"), ("J", "tom_low"),
    ("E", "ride_bell"), ("Z", "splash"),
)  # fmt: skip
MENU = "Heard"


def _heard(name: str, text: str, *keys: str) -> Callable[..., Callable[["Window"], object]]:
    return command(f"heard.{name}", text, *keys, menu=MENU, place="listen")


def _chosen(
    name: str, text: str, *keys: str, change: Callable[[Document, Hit], Edit], then_doubt: bool = False
) -> None:
    """A correction of the chosen hit; in a round of doubts the next one is shown afterwards."""

    def run(w: "Window") -> None:
        w.listen_place.correct_chosen(change, then_doubt=then_doubt)

    _heard(name, text, *keys)(run)


_heard("doubt", "Next doubt", "D")(lambda w: w.listen_place.next_doubt())
_chosen("right", "It is right as heard", "Y", change=listening.confirm, then_doubt=True)
_chosen("gone", "It is no hit", "Delete", "Backspace", change=listening.not_a_hit, then_doubt=True)
for _key, _name in VOICE_KEYS:
    _chosen(
        f"is_{_name}",
        f"It is {voice(_name).label.lower()}",
        _key,
        change=lambda d, h, n=_name: listening.correct_voice(d, h, n),  # type: ignore[misc]
        then_doubt=True,
    )
_chosen("spot_back", "It belongs a step earlier", "Shift+Left", change=lambda d, h: listening.move_spot(d, h, -1))
_chosen("spot_on", "It belongs a step later", "Shift+Right", change=lambda d, h: listening.move_spot(d, h, 1))
_heard("missed", "Add a missed hit at the cursor", "Return", "Enter")(lambda w: w.listen_place.add_missed())
_heard("beat_one", "Beat 1 is here", "O")(lambda w: w.listen_place.beat_one_here())
_heard("meter", "It is in another meter …", "I")(questions.tell_meter)
_heard("twice", "Twice as fast", "X")(lambda w: w.studio.correct(lambda d: listening.times_as_fast(d, 2)))
_heard("half", "Half as fast", "Shift+X")(lambda w: w.studio.correct(lambda d: listening.times_as_fast(d, 0.5)))
_heard("swing", "Straight or swung", "W")(lambda w: w.studio.correct(listening.straight_or_swung))
_heard("plain", "Take all corrections off")(lambda w: w.studio.correct(listening.no_corrections))
_heard("next", "Next hit", "Right")(lambda w: w.listen_place.view.choose_next(1))
_heard("previous", "Previous hit", "Left")(lambda w: w.listen_place.view.choose_next(-1))
_heard("lane_up", "Cursor a lane up", "Up")(lambda w: w.listen_place.view.move_lane(-1))
_heard("lane_down", "Cursor a lane down", "Down")(lambda w: w.listen_place.view.move_lane(1))
_heard("hear", "Hear its moment", "H")(lambda w: w.listen_place.hear_chosen())
_heard("spectrum", "Spectrogram or waveform", "V")(lambda w: w.listen_place.view.switch_picture())
