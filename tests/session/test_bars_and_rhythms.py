"""Whole bars, rhythms of a voice, targets that are joined, and what phrases ask for."""

from pathlib import Path

import pytest

from ghoststep.feel.perform import perform
from ghoststep.files.textgrid import parse_grid
from ghoststep.files.textgrid_out import grid_text
from ghoststep.music.errors import InputError
from ghoststep.session.document.document import Document
from ghoststep.session.edits.commit import opened
from ghoststep.session.language.doing import do
from ghoststep.session.language.edit_context import EditContext
from ghoststep.sound.program import Wish, program
from ghoststep.sound.sketch import sketch_kit

TEXT = """tempo 100
hat_closed x-x-x-x-x-x-x-x- | x-x-x-x-x-x-x-x- | x---x---x---x---
snare      ----X--o----X--- | ----X--o-o--X--- | ----X-------X---
kick       X-----x---X----- | X--x----------x- | X---------------
"""


@pytest.fixture
def context() -> EditContext:
    return EditContext(opened(Document("a", parse_grid(TEXT))))


def lane(context: EditContext, name: str) -> list[str]:
    text = grid_text(context.document.groove)
    row = next(line for line in text.splitlines() if line.startswith(f"{name} "))
    return row.removeprefix(name).replace(" ", "").split("|")


def done(context: EditContext, *phrases: str) -> EditContext:
    for phrase in phrases:
        _, context = do(context, phrase)
    return context


def test_bars_are_copied_over_others_and_behind_the_end(context: EditContext) -> None:
    kick = lane(context, "kick")
    assert lane(done(context, "copy-bar 1 to 3"), "kick") == [kick[0], kick[1], kick[0]]
    assert lane(done(context, "copy-bar 1-2 to 4"), "kick") == [*kick, kick[0], kick[1]]
    assert lane(done(context, "copy-bar 3 to 1,2"), "kick") == [kick[2]] * 3
    with pytest.raises(InputError, match="no bar 9"):
        do(context, "copy-bar 1 to 9")
    other = done(context, "meter 3/4 bars 3")
    with pytest.raises(InputError, match="cannot be alike"):
        do(other, "copy-bar 1 to 3")


def test_triplets_go_along_with_a_copied_bar(context: EditContext) -> None:
    there = done(context, "grid triplets bars 2", "copy-bar 2 to 1", "copy-bar 3 to 2")
    assert [there.document.groove.pattern.grid_at("kick", t) for t in (0, 80640, 161280)] == [12, 16, 16]


def test_bars_change_places_are_put_in_repeated_and_turned(context: EditContext) -> None:
    kick = lane(context, "kick")
    assert lane(done(context, "swap-bar 1 with 3"), "kick") == [kick[2], kick[1], kick[0]]
    empty = "-" * 16
    assert lane(done(context, "insert-bar 2 before 2"), "kick") == [kick[0], empty, empty, kick[1], kick[2]]
    assert lane(done(context, "insert-bar 1"), "kick") == [*kick, empty]
    assert lane(done(context, "repeat 2 of 2-3"), "kick") == [kick[1], kick[2]] * 2
    assert lane(done(context, "repeat 3"), "kick") == kick * 3
    assert lane(done(context, "reverse-bar 1"), "kick")[0] == kick[0][::-1]
    for phrase, trouble in (
        ("swap-bar 1 with 7", "no bar 7"), ("swap-bar 2 with 2", "with itself"), ("insert-bar 1 before 9", "no place"),
        ("repeat 4000", "1 to 4096 bars"), ("insert-bar 4095", "1 to 4096 bars"),
    ):  # fmt: skip
        with pytest.raises(InputError, match=trouble):
            do(context, phrase)


def test_a_lane_strikes_on_these_spots_alone(context: EditContext) -> None:
    opened_hat = done(context, "voice hat_open on hat_closed at 4&", "strikes hat_closed every &")
    assert (
        lane(opened_hat, "hat_closed")[0] == "--x---x---x-----" and lane(opened_hat, "hat_open")[0] == "-" * 14 + "x-"
    )
    assert lane(done(context, "strikes kick 1,3 bars 2"), "kick")[1] == "x-------x-------".replace("x", "X", 1)
    assert "already" in do(context, "strikes hat_closed every 8th bars 1-2")[0]
    assert lane(done(context, "place clap 2", "strikes shaker every quarter"), "clap")[0] == "----x-----------"


def test_a_spot_without_bars_is_meant_in_every_bar(context: EditContext) -> None:
    assert [bar[8] for bar in lane(done(context, "place kick 3"), "kick")] == ["x"] * 3
    short = done(context, "meter 2/4 bars 2")
    assert [len(bar) for bar in lane(short, "kick")] == [16, 8, 16]
    assert [bar[12:13] for bar in lane(done(short, "place kick 4"), "kick")] == ["x", "", "x"]
    with pytest.raises(InputError, match="outside"):
        do(short, "place kick 4 bars 2")


def test_targets_are_joined_and_order_is_free(context: EditContext) -> None:
    gone = done(context, "remove kick at 1 bars 1 also snare at 4 bars 2")
    assert lane(gone, "kick")[0][0] == "-" and lane(gone, "snare")[1][12] == "-" and lane(gone, "snare")[0][12] == "X"
    for phrase in ("move kick 3& to 3 bars 1", "move kick 3& bars 1 to 3"):
        assert lane(done(context, phrase), "kick")[0] == "X-----x-X-------"


def test_loudness_in_db_and_a_player_in_time_and_touch(context: EditContext) -> None:
    softer = done(context, "loudness -12 dB on hat").document.groove.pattern
    assert {h.velocity for h in softer.hits if h.voice == "hat_closed"} == {46}  # half, but no lower than its role
    groove = done(context, "humanise 4").document.groove
    assert groove.feel.loose_ms == 4 and groove.feel.wander.velocity == 5
    hats = [
        v
        for v, name in zip(perform(groove).velocity, (h.voice for h in groove.pattern.hits), strict=True)
        if name == "hat_closed"
    ]
    assert len(set(hats)) > 5
    assert done(context, "humanise 4 only time").document.groove.feel.wander.velocity == 0
    assert done(context, "humanise 4 only touch").document.groove.feel.loose_ms == 0


def test_what_is_asked_changes_nothing(context: EditContext) -> None:
    for phrase, what in (
        ("undo", "undo"), ("play 2-3", "play"), ("mute kick and hat", "mute"), ("solo floor tom", "solo"),
        ("play-speed 50%", "speed"), ("count-me-in on", "count-in"), ("check learner", "check"),
        ("describe 1", "describe"), ("rest-limb L and H", "rest"), ("build-up feet-first passes 3", "build-up"),
        ("play-click eighth bars 2 silent 2 level -6 dB", "click"), ("play-click off", "click"),
    ):  # fmt: skip
        _, after = do(context, phrase)
        assert after.document is context.document and [a.what for a in after.asks] == [what]
    assert do(context, "mute kick and hat")[1].asks[0].voices[0] == "kick"


def test_muted_voices_are_not_heard(context: EditContext) -> None:
    groove, kit = context.document.groove, sketch_kit()
    whole, without = (program(groove, kit, Wish(muted=frozenset(m))) for m in ((), groove.pattern.voices))
    assert abs(whole.samples).max() > 0.05 and abs(without.samples).max() == 0


def test_words_of_the_trade(context: EditContext, tmp_path: Path) -> None:
    assert "counted in two already" in do(done(context, "meter 2/4"), "count two")[0]
    bell = done(context, "voice ride_bell on hat", "stroke shoulder on ride_bell")
    assert {h.stroke for h in bell.document.groove.pattern.hits if h.voice == "ride_bell"} == {"shoulder"}
    assert lane(done(context, "place floor tom 4"), "tom_floor")[0][12] == "x"
    late = done(context, "placement behind for snare and kick by 9 ms").document.groove.feel
    assert late.lean_of("snare") == late.lean_of("kick") == 9 and late.lean_of("hat_closed") == 0
    fill = done(context, "fill-in 2 in 2 over high tom floor tom keep kick")
    assert lane(fill, "kick")[1] == lane(context, "kick")[1] and "-" not in lane(fill, "tom_floor")[1][12:]
    assert "hat_open    --x---x---x---x-" in grid_text(done(context, "start disco").document.groove)
    for style in ("pop", "jazz-ride"):
        assert any(h.voice == "snare" for h in done(context, f"start {style}").document.groove.pattern.hits)


def test_a_layer_leaves_out_what_hands_cannot_play_and_tells_it(context: EditContext) -> None:
    clapped = done(context, "place clap 2,4")
    words, after = do(clapped, "lay hat-quarters")
    assert "left out" not in words and lane(after, "hat_closed") == ["x---x---x---x---"] * 3
    words, after = do(context, "lay hat-sixteenths-two")
    assert "left out" in words and lane(after, "hat_closed")[2] == "Xxxx-xxxXxxx-xxx"
