"""Remarks that are true, difficulty that grows, and stickings around given hands."""

import random
from dataclasses import replace

import pytest
from bench.parts import playable

from ghoststep.files.textgrid import parse_grid
from ghoststep.judge.alternatives import alternatives, applied
from ghoststep.judge.check import checked
from ghoststep.judge.difficulty import syncopation
from ghoststep.judge.hands import Taste, sticking
from ghoststep.judge.line import names
from ghoststep.judge.remarks import remarks
from ghoststep.music.errors import InputError


def words(text: str) -> list[str]:
    return [s.words for s in remarks(parse_grid(text))]


@pytest.mark.parametrize(
    ("text", "sentence"),
    [
        ("crash X---------------\nhat_closed --x-x-x-x-x-x-x-", "Hats pause at the crash."),
        (
            "snare ----X-------X--- | ----X---------X- | ----X-------X---",
            "Backbeat on 4 late by an eighth in bar 2.",
        ),
        ("meter 2/4\nkick x---x---\nsnare --x---x-", "Linear: no two limbs strike together."),
    ],
)  # fmt: skip
def test_a_groove_is_told_as_a_drummer_would(text: str, sentence: str) -> None:
    assert sentence in words(text)


def test_remarks_are_true() -> None:
    rng = random.Random(4)
    for _ in range(60):
        groove = playable(rng, 4)
        assert all(s.holds(groove.pattern) for s in remarks(groove))


def test_difficulty_grows_with_what_is_asked() -> None:
    plain = "hat_closed x-x-x-x-x-x-x-x-\nsnare ----X-------X---\nkick X-------X-------"
    busy = "hat_closed x-xxx-xxx-xxx-xx\nsnare ---oXo-o-o--Xo-o\nkick X--x--x---x--x--"
    easy, hard = (checked(parse_grid(f"tempo 100\n{t}")).difficulty for t in (plain, busy))
    faster = checked(parse_grid(f"tempo 150\n{busy}")).difficulty
    assert easy.whole < hard.whole < faster.whole <= 10
    assert easy.syncopation < hard.syncopation and easy.coordination < hard.coordination
    assert easy.control == 0 < hard.control and "of 10" in hard.words


def test_syncopation_counts_strokes_before_stronger_rests() -> None:
    # Longuet-Higgins & Lee: a stroke on 4& that is held over the bar line is stronger syncopation than one on 2&.
    on_beats = syncopation(parse_grid("kick x---x---x---x---"))
    over_the_bar = syncopation(parse_grid("kick ----x---x-----x-"))
    inside = syncopation(parse_grid("kick x-----x-----x---"))
    assert on_beats == 0 < inside < over_the_bar


def test_given_hands_are_kept_and_the_rest_is_found_around_them() -> None:
    groove = parse_grid("tempo 120\nsnare xxxxxxxxxxxxxxxx")
    hits = tuple(replace(h, limb="L") if i == 0 else h for i, h in enumerate(groove.pattern.hits))
    given = groove.changed(hits=hits)
    kept = sticking(given, keep=True)
    assert "".join(kept.values()) == "LRLRLRLRLRLRLRLR"
    assert "".join(sticking(given).values()) == "RLRLRLRLRLRLRLRL"
    assert "".join(sticking(groove, taste=Taste(first="L")).values()) == "LRLRLRLRLRLRLRLR"


def test_alternatives_differ_and_the_easiest_comes_first() -> None:
    groove = parse_grid("tempo 100\nsnare XxxxXxxxXxxxXxxx")
    offered = alternatives(groove)
    assert [a.about for a in offered][:2] == ["the easiest", "as rudiments"] and len(offered) == 3
    assert offered[0].cost <= min(a.cost for a in offered)
    assert len({tuple(a.limbs.items()) for a in offered}) == 3
    assert [n.words for n in names(applied(groove, offered[1].limbs))] == ["paradiddle"]
    with pytest.raises(InputError, match="no way to play"):
        alternatives(groove, "upside down")


def test_rolls_and_flams_leave_the_hands_where_they_end() -> None:
    groove = parse_grid("tempo 100\nsnare x-------x-------")
    hits = tuple(
        replace(h, ornament="roll5", length_ticks=20160) if i == 0 else replace(h, ornament="flam")
        for i, h in enumerate(groove.pattern.hits)
    )
    report = checked(groove.changed(hits=hits))
    letters = {x for i in report.played.strikes.index for x in report.limbs[int(i)]}
    assert len(report.played.strikes.index) == 5 and letters <= {"R", "L"}  # four of the roll, and the flam's own
    assert {int(x) for x in report.played.strikes.limb} == {0, 1}


def test_a_loop_of_bars_costs_no_more_than_one_and_windows_agree() -> None:
    bar = {"hat_closed": "x-x-x-x-x-x-x-x-", "snare": "----X--o-o--X--o", "kick": "X------x--X-----"}
    one = sticking(parse_grid("\n".join(f"{v} {r}" for v, r in bar.items())))
    many = sticking(parse_grid("\n".join(f"{v} {'|'.join([r] * 13)}" for v, r in bar.items())))
    assert [many[i] for i in sorted(many)] == [one[i % len(one)] for i in sorted(many)]
