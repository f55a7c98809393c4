"""Setting right what was heard: the commands of the Listen place, each on a key of its own."""

from collections.abc import Callable, Sequence
from typing import TYPE_CHECKING

from ghoststep.desk.listen.click_taps import tap_along
from ghoststep.desk.listen.offers_round import Answer, answer, next_offer
from ghoststep.desk.listen.reading_strip import MOST
from ghoststep.desk.model.bound import Bound
from ghoststep.desk.model.places import Desk
from ghoststep.listen.bars.reading import Click
from ghoststep.music.kit import voice
from ghoststep.music.meter import Meter
from ghoststep.music.pattern import Hit
from ghoststep.session.document.document import Document
from ghoststep.session.edits.hit_edits import Edit
from ghoststep.work import corrections, offers

if TYPE_CHECKING:
    from ghoststep.desk.listen.listen_place import ListenPlace

DOES = Bound()
runs = DOES.runs

# Which key says that a hit is which voice.
VOICE_KEYS: tuple[tuple[str, str], ...] = (
    ("1", "kick"), ("2", "snare"), ("3", "cross_stick"), ("4", "hat_closed"), ("5", "hat_half"), ("6", "hat_open"),
    ("7", "hat_pedal"), ("8", "ride"), ("9", "crash"), ("0", "tom_mid"), ("U", "tom_high"), ("J", "tom_low"),
    ("E", "ride_bell"), ("Z", "splash"),
)  # fmt: skip
MENU = "Heard"


HERE = "listen"


def _place(desk: Desk) -> "ListenPlace":
    found: ListenPlace = desk.at(HERE)
    return found


def _answer_alike(desk: Desk, how: Answer) -> None:
    if not answer(_place(desk), how, alike=True):
        desk.say("Nothing that is offered is chosen: press P for the next one.", True)


def _heard(name: str, text: str, *keys: str, group: str = "") -> Callable[..., Callable[[Desk], object]]:
    return runs(f"heard.{name}")


def _chosen(
    name: str,
    text: str,
    *keys: str,
    change: Callable[[Document, Sequence[Hit]], Edit],
    then_doubt: bool = False,
    group: str = "hit",
) -> None:
    """A correction of the chosen hits; in a round of doubts the next one is shown afterwards."""

    def run(w: Desk) -> None:
        _place(w).correct_chosen(change, then_doubt=then_doubt)

    _heard(name, text, *keys, group=group)(run)


_heard("doubt", "Next doubt", "D")(lambda w: _place(w).next_doubt())
_chosen("right", "It is right as heard", "Y", change=corrections.confirm, then_doubt=True)


_heard("alike", "Choose all like it, then all of its voice", "A", group="hit")(lambda w: _place(w).widen_choice())


@_heard("gone", "It is no hit, or drop what is offered", "Delete", "Backspace", group="hit")
def _gone(desk: Desk) -> None:
    if not answer(_place(desk), offers.drop, alike=False):
        _place(desk).correct_chosen(corrections.not_a_hit, then_doubt=True)


_heard("perhaps", "Next stroke that may be one", "P", group="perhaps")(lambda w: next_offer(_place(w)))
_heard("take_alike", "Take what is offered here and all like it", "Shift+Return", "Shift+Enter", group="perhaps")(
    lambda w: _answer_alike(w, offers.take)
)
_heard("drop_alike", "Drop what is offered here and all like it", "Shift+Delete", group="perhaps")(
    lambda w: _answer_alike(w, offers.drop)
)
for _key, _name in VOICE_KEYS:
    _chosen(
        f"is_{_name}",
        f"It is {voice(_name).label.lower()}",
        _key,
        change=lambda d, h, n=_name: corrections.correct_voice(d, h, n),  # type: ignore[misc]
        then_doubt=True,
        group="voice",
    )
_chosen("spot_back", "It belongs a step earlier", "Shift+Left", change=lambda d, h: corrections.move_spot(d, h, -1))
_chosen("spot_on", "It belongs a step later", "Shift+Right", change=lambda d, h: corrections.move_spot(d, h, 1))


@_heard("missed", "Take what is offered, or add a missed hit at the cursor", "Return", "Enter")
def _missed(desk: Desk) -> None:
    if not answer(_place(desk), offers.take, alike=False):
        _place(desk).add_missed()


_heard("reading_kept", "Count it as it is counted", "Alt+0", group="whole")(lambda w: _place(w).keep_reading())
for _number in range(MOST):
    _heard(f"reading_{_number + 1}", f"Count it the other way {_number + 1}", f"Alt+{_number + 1}", group="whole")(
        lambda w, n=_number: _place(w).take_reading(n)
    )
_heard("beat_one", "Beat 1 is here", "O", group="whole")(lambda w: _place(w).beat_one_here())


@_heard("meter", "It is in another meter …", "I", group="whole")
def _tell_meter(desk: Desk) -> None:
    """The meter of what was heard, typed: 7/8 2+2+3, 11/4 4+4+3 ..."""
    heard = desk.studio.document.listening
    now = heard.explained.groove.pattern.meter.full_name if heard else "4/4"
    text = desk.ask("It is in", "7/4, 7/8 2+2+3, 11/4 4+4+3 ...", now)
    if text is not None:
        meter = Meter.parse(text)
        desk.studio.correct(lambda d: corrections.in_meter(d, meter))


@_heard("click", "The player heard a click …", "Shift+K", group="whole")
def _tell_click(desk: Desk) -> None:
    """The click that leans are told against, typed as its tempo and the second of one; taps or beat 1 are proposed."""
    heard = desk.studio.document.listening
    if heard is None:
        desk.say("Listen to something first.", True)
        return
    at_s = _place(desk).view.moment()
    now = f"{heard.explained.groove.tempo.main_bpm:.2f}@{heard.explained.start_s if at_s is None else at_s:.3f}"
    tapped = _place(desk).click_taps.click()
    if tapped is not None:
        now = f"{tapped.bpm:.3f}@{tapped.at_s:.3f}"
    text = desk.ask("The click the player heard", "Its tempo, and the second of one click: 96@0.5", now)
    if text is not None:
        click = Click.parse(text)
        desk.studio.correct(lambda d: corrections.with_click(d, click))


_heard("tap_click", "Tap along with the click", "Alt+K", group="whole")(lambda w: tap_along(_place(w)))
_heard("twice", "Twice as fast", "X", group="whole")(
    lambda w: w.studio.correct(lambda d: corrections.times_as_fast(d, 2))
)
_heard("half", "Half as fast", "Shift+X", group="whole")(
    lambda w: w.studio.correct(lambda d: corrections.times_as_fast(d, 0.5))
)
_heard("swing", "Straight or swung", "W", group="whole")(lambda w: w.studio.correct(corrections.straight_or_swung))
_heard("plain", "Take all corrections off", group="whole")(lambda w: w.studio.correct(corrections.no_corrections))
_heard("next", "Next hit", "Right", group="look")(lambda w: _place(w).view.choose_next(1))
_heard("previous", "Previous hit", "Left", group="look")(lambda w: _place(w).view.choose_next(-1))
_heard("lane_up", "Cursor a lane up", "Up", group="look")(lambda w: _place(w).view.move_lane(-1))
_heard("lane_down", "Cursor a lane down", "Down", group="look")(lambda w: _place(w).view.move_lane(1))
_heard("hear", "Hear its moment", "H", group="look")(lambda w: _place(w).hear_chosen())
_heard("spectrum", "Spectrogram or waveform", "V", group="look")(lambda w: _place(w).view.switch_picture())
