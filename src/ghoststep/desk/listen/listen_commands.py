"""Setting right what was heard: the commands of the Listen place, each on a key of its own."""

from collections.abc import Callable, Sequence
from functools import partial

from ghoststep.desk.listen.listen_place import ListenPlace
from ghoststep.desk.listen.offers_round import Answer, answer, next_offer
from ghoststep.desk.listen.reading_strip import MOST
from ghoststep.desk.listen.voice_keys import VOICE_KEYS
from ghoststep.desk.model.bound import Bound
from ghoststep.desk.model.desk import Desk
from ghoststep.listen.bars.reading import Click
from ghoststep.music.meter import Meter
from ghoststep.music.pattern import Hit
from ghoststep.session.document.document import Document
from ghoststep.session.edits.hit_edits import Edit
from ghoststep.work import corrections, offers

DOES = Bound()
runs = DOES.runs

HERE = "listen"


def _place(desk: Desk) -> ListenPlace:
    found: ListenPlace = desk.at(HERE)
    return found


def _tap_along(place: ListenPlace) -> None:
    """A tap at what is heard now."""
    now_s = place.playing_s()
    if now_s is None:
        place.studio.said.emit("Play the recording (Space), then tap along with the click it was played to.", True)
        return
    place.studio.said.emit(place.click_taps.tap(now_s), False)


def _answer_alike(desk: Desk, how: Answer) -> None:
    if not answer(_place(desk), how, alike=True):
        desk.say("Nothing that is offered is chosen: press P for the next one.", True)


def _chosen(name: str, *, change: Callable[[Document, Sequence[Hit]], Edit], then_doubt: bool = False) -> None:
    """A correction of the chosen hits; in a round of doubts the next one is shown afterwards."""

    def run(w: Desk) -> None:
        _place(w).correct_chosen(change, then_doubt=then_doubt)

    runs(f"heard.{name}")(run)


runs("heard.doubt")(lambda w: _place(w).next_doubt())
_chosen("right", change=corrections.confirm, then_doubt=True)


runs("heard.alike")(lambda w: _place(w).widen_choice())


@runs("heard.gone")
def _gone(desk: Desk) -> None:
    if not answer(_place(desk), offers.drop, alike=False):
        _place(desk).correct_chosen(corrections.not_a_hit, then_doubt=True)


runs("heard.perhaps")(lambda w: next_offer(_place(w)))
runs("heard.take_alike")(lambda w: _answer_alike(w, offers.take))
runs("heard.drop_alike")(lambda w: _answer_alike(w, offers.drop))
for _, _name in VOICE_KEYS:
    _chosen(f"is_{_name}", change=partial(corrections.correct_voice, to_voice=_name), then_doubt=True)
_chosen("spot_back", change=lambda d, h: corrections.move_spot(d, h, -1))
_chosen("spot_on", change=lambda d, h: corrections.move_spot(d, h, 1))


@runs("heard.missed")
def _missed(desk: Desk) -> None:
    if not answer(_place(desk), offers.take, alike=False):
        _place(desk).add_missed()


def _take_reading(desk: Desk, number: int) -> None:
    _place(desk).take_reading(number)


runs("heard.reading_kept")(lambda w: _place(w).keep_reading())
for _number in range(MOST):
    runs(f"heard.reading_{_number + 1}")(partial(_take_reading, number=_number))
runs("heard.beat_one")(lambda w: _place(w).beat_one_here())


@runs("heard.meter")
def _tell_meter(desk: Desk) -> None:
    """The meter of what was heard, typed: 7/8 2+2+3, 11/4 4+4+3 ..."""
    heard = desk.studio.document.listening
    now = heard.explained.groove.pattern.meter.full_name if heard else "4/4"
    text = desk.ask("It is in", "7/4, 7/8 2+2+3, 11/4 4+4+3 ...", now)
    if text is not None:
        meter = Meter.parse(text)
        desk.studio.session.correct(lambda d: corrections.in_meter(d, meter))


@runs("heard.click")
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
        desk.studio.session.correct(lambda d: corrections.with_click(d, click))


runs("heard.tap_click")(lambda w: _tap_along(_place(w)))
runs("heard.twice")(lambda w: w.studio.session.correct(lambda d: corrections.times_as_fast(d, 2)))
runs("heard.half")(lambda w: w.studio.session.correct(lambda d: corrections.times_as_fast(d, 0.5)))
runs("heard.swing")(lambda w: w.studio.session.correct(corrections.straight_or_swung))
runs("heard.plain")(lambda w: w.studio.session.correct(corrections.no_corrections))
runs("heard.next")(lambda w: _place(w).view.choose_next(1))
runs("heard.previous")(lambda w: _place(w).view.choose_next(-1))
runs("heard.lane_up")(lambda w: _place(w).view.move_lane(-1))
runs("heard.lane_down")(lambda w: _place(w).view.move_lane(1))
runs("heard.hear")(lambda w: _place(w).hear_chosen())
runs("heard.spectrum")(lambda w: _place(w).view.switch_picture())
