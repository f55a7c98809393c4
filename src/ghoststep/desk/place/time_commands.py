"""The commands of the page Time that are more than a phrase: hearing placements, takes and players in turn."""

from collections.abc import Callable
from dataclasses import replace
from typing import TYPE_CHECKING

from ghoststep.desk.dialogs.compare import judge_blind
from ghoststep.desk.model.bound import Bound
from ghoststep.desk.model.desk import Desk
from ghoststep.desk.place.proposal_page import Proposed
from ghoststep.feel.measure import measured
from ghoststep.files.feels import put_on_shelf
from ghoststep.music.errors import InputError
from ghoststep.music.groove import Groove
from ghoststep.session.edits.feel_edits import PLACEMENTS, choose_take, set_placement
from ghoststep.session.language.kinds import Amount
from ghoststep.session.named_feels import player_named
from ghoststep.work.feels import laid, three_to_judge

if TYPE_CHECKING:
    from ghoststep.desk.place.grid_place import GridPlace

DOES = Bound()
runs = DOES.runs

HERE = "place"
TAKES = 8
_WORDS = {"ahead": "Ahead of the pulse", "on": "On the pulse", "behind": "Behind the pulse"}


def _place(desk: Desk) -> "GridPlace":
    found: GridPlace = desk.at(HERE)
    return found


@runs("time.placements")
def _placements(desk: Desk) -> None:
    place = _place(desk)
    voices = place.time_page.placed_voices()

    def way(where: str) -> Proposed:
        _, after = set_placement(place.studio.document, where, voices)
        return Proposed(
            _WORDS[where], after.groove, (), lambda: place.studio.call("placement", where=where, voices=voices)
        )

    if not place.studio.playback.wish.click:
        place.studio.playback.set_wish(click=True)  # without the click nobody can tell where the pulse is
    place.propose("The same bars, placed three ways", [way(w) for w in PLACEMENTS])


@runs("time.takes")
def _takes(desk: Desk) -> None:
    place = _place(desk)
    groove = place.studio.groove
    if not groove.feel.loose_ms and not groove.feel.wander.velocity:
        raise InputError("This groove has no looseness, so all takes are alike: set a spread, or lay a feel on it.")

    def take(number: int) -> Proposed:
        feel = replace(groove.feel, take=number, frozen=True)

        def choose() -> None:
            place.studio.edit(lambda d: choose_take(d, number))

        return Proposed(f"Take {number}", groove.changed(feel=feel), (), choose)

    first = groove.feel.take
    place.propose("Takes by the same player; the one you take is frozen", [take(first + n) for n in range(TAKES)])


@runs("time.try")
def _try(desk: Desk) -> None:
    place = _place(desk)
    page, studio = place.time_page, place.studio
    name, (touch, time) = page.chosen_feel, page.shares
    player, known = player_named(name)
    groove = studio.groove

    def way(words: str, tried: Groove, touch: float, time: float) -> Proposed:
        return Proposed(
            words, tried, (), lambda: studio.call("feel", name=known, touch=Amount(touch), time=Amount(time))
        )

    after, _ = laid(player, groove, touch, time)
    only_time, _ = laid(player, groove, 0, time)
    only_touch, _ = laid(player, groove, touch, 0)
    ways = [
        way(f"{known}: touch and time", after, touch, time),
        Proposed("As it is now", groove, (), lambda: None),
        way(f"{known}: time alone", only_time, 0, time),
        way(f"{known}: touch alone", only_touch, touch, 0),
    ]
    place.propose(f"{known}, laid on this groove", ways)


@runs("time.blind")
def _blind(desk: Desk) -> None:
    studio = desk.studio
    groove = studio.groove
    heard = studio.document.listening
    played = heard.explained.groove if heard else groove
    if not measured(played).feel.loose_ms:
        raise InputError("There is no player to judge by here: listen to a recording, or set a looseness first.")
    judge_blind(desk, three_to_judge(played, groove.feel.take))


runs("time.tap_tempo")(lambda d: _place(d).tap_tempo.tap())


@runs("time.keep")
def _keep(desk: Desk) -> None:
    groove = _place(desk).studio.groove
    found = measured(groove)
    name = desk.ask("Keep the feel of this groove", "Its name on the shelf", groove.name or "my feel")
    if name is not None:
        put_on_shelf(found.feel, name, f"Measured in {groove.name or 'a groove'}.")
        _place(desk).time_page.fill_shelf()
        desk.say(f"'{name.strip()}' is on the shelf")


def _sees(kind: int) -> Callable[[Desk], None]:
    return lambda desk: _place(desk).toggle_view(kind)


for _number, _name in enumerate(("pocket", "swing", "touch")):
    runs(f"time.view_{_name}")(_sees(_number))
