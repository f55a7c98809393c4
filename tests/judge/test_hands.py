import pytest

from ghoststep.files.textgrid import parse_grid
from ghoststep.judge.hands import sticking
from ghoststep.judge.kit_setup import WAYS
from ghoststep.judge.line import names
from ghoststep.music.errors import InputError
from ghoststep.music.groove import Groove
from ghoststep.music.kit import voice
from ghoststep.session.document.document import Document
from ghoststep.session.edits.rules import clashes
from ghoststep.session.language.doing import do
from ghoststep.session.language.edit_context import EditContext

DOWN = ("snare", "tom_high", "tom_mid", "tom_low")


def hands(groove: Groove, way: str = "right-handed") -> dict[str, str]:
    """Letters of each voice in the order of time."""
    found = sticking(groove, way)
    out: dict[str, str] = {}
    for i, h in enumerate(groove.pattern.hits):
        out[h.voice] = out.get(h.voice, "") + found[i]
    return out


ROCK = "tempo 96\nhat_closed x-x-x-x-x-x-x-x-\nsnare ----X--o-o--X--o\nkick X------x--X-----"


def test_each_way_to_play_has_its_hands() -> None:
    rock = parse_grid(ROCK)
    right = hands(rock)
    assert set(right["hat_closed"]) == {"R"} and set(right["snare"]) == {"L"} and set(right["kick"]) == {"K"}
    left = hands(rock, "left-handed")
    assert set(left["hat_closed"]) == {"L"} and set(left["snare"]) == {"R"}
    opened = hands(rock, "open-handed")
    assert set(opened["hat_closed"]) == {"L"} and set(opened["snare"]) == {"R"}
    with pytest.raises(InputError, match="right-handed"):
        sticking(rock, "four-handed")


def test_fast_notes_of_one_drum_alternate() -> None:
    for bpm in (80, 100, 110, 120, 130, 160):
        letters = hands(parse_grid(f"tempo {bpm}\nsnare xxxxxxxxxxxxxxxx"))["snare"]
        assert letters == "RLRLRLRLRLRLRLRL", bpm
        down = "\n".join(f"{v} {'----' * i}xxxx{'----' * (3 - i)}" for i, v in enumerate(DOWN))
        assert "".join(x for _, x in sorted(sticking(parse_grid(f"tempo {bpm}\n{down}")).items())) == letters
    slow = hands(parse_grid("tempo 60\nsnare ----x-------x---"))["snare"]
    assert set(slow) == {"L"}


def test_a_hand_never_plays_two_things_at_once_where_two_can() -> None:
    groove = parse_grid(
        "tempo 100\ncrash X---------------\nsnare X---x---X---x---\nride --x-x-x-x-x-x-x-\ntom_low ----------x---x-"
    )
    found = sticking(groove)
    by: dict[int, list[str]] = {}
    for i, h in enumerate(groove.pattern.hits):
        by.setdefault(h.position_ticks, []).append(found[i])
    assert all(len(set(letters)) == len(letters) for letters in by.values())
    assert all(found[i] == "R" for i, h in enumerate(groove.pattern.hits) if voice(h.voice).name == "ride")


@pytest.mark.parametrize("way", WAYS)
def test_a_long_busy_groove_is_worked_out(way: str) -> None:
    bars = {"hat_closed": "xxxxxxxxxxxxxxxx", "kick": "x---x---x---x---"}
    groove = parse_grid("tempo 120\n" + "\n".join(f"{name} {'|'.join([bar] * 40)}" for name, bar in bars.items()))
    found = sticking(groove, way)
    assert len(found) == len(groove.pattern.hits) and set(found.values()) == {"R", "L", "K"}


def typed(letters: str) -> list[str]:
    groove = parse_grid(f"snare {'x' * 16}")
    _, context = do(EditContext(Document("x", groove)), f"hands {letters} on snare")
    return [n.words for n in names(context.document.groove)]


@pytest.mark.parametrize(
    ("letters", "name"),
    [
        ("RLRRLRLL", "paradiddle"),
        ("LRLLRLRR", "paradiddle"),
        ("RLLRLRRL", "inverted paradiddle"),
        ("RRLRLLRL", "reversed paradiddle"),
        ("RL", "single-stroke roll"),
        ("RRLL", "double-stroke roll"),
    ],
)
def test_rudiments_are_named(letters: str, name: str) -> None:
    assert typed(letters)[0] == name


def test_cells_of_hands_and_feet_are_named() -> None:
    groove = parse_grid("snare -x--x--x--------\ntom_low --x--x--x-------\nkick x--x--x---------")
    _, context = do(EditContext(Document("x", groove)), "limb R on snare")
    _, context = do(context, "limb L on tom_low")
    assert [n.words for n in names(context.document.groove)] == ["K R L three times"]
    uneven = parse_grid("snare -x---x---x------\nkick x--x----x-------")
    assert not names(uneven)


def test_clashes_are_where_two_limbs_meet() -> None:
    rock = parse_grid(ROCK)
    assert clashes(rock.pattern) == [n * 5040 for n in (0, 4, 7, 10, 12)]
    assert clashes(parse_grid("snare ----x-----------\nkick x---------------").pattern) == []


def test_hands_do_not_cross_where_they_need_not() -> None:
    together = hands(parse_grid("tempo 90\ncrash X---------------\ntom_low X---------------"))
    assert together == {"crash": "L", "tom_low": "R"}
    mirrored = hands(parse_grid("tempo 90\ncrash X---------------\ntom_low X---------------"), "left-handed")
    assert mirrored == {"crash": "R", "tom_low": "L"}
