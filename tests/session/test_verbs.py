"""What verbs do to the note: exact outcomes of the small ones."""

from dataclasses import replace

import pytest

from ghoststep.feel.ornaments import spelled_out
from ghoststep.files.textgrid import parse_grid
from ghoststep.music.errors import InputError
from ghoststep.music.pattern import Hit, Origin
from ghoststep.music.rules import Rules
from ghoststep.music.touch import Role
from ghoststep.session.document.describe import alike_bars
from ghoststep.session.document.document import Document
from ghoststep.session.edits.commit import opened
from ghoststep.session.edits.stroke_edits import closings
from ghoststep.session.language.doing import do
from ghoststep.session.language.edit_context import EditContext

STEP = 5040
GRID = """
tempo 96
hat_closed x-x-x-x-x-x-x-x-
snare      ----X--o-oo-X--o
tom_high   x-------x---x---
kick       X------x--X-----
"""


def stand_of(*hits: Hit, text: str = GRID) -> EditContext:
    groove = parse_grid(text)
    return EditContext(opened(Document("x", groove.changed(hits=(*groove.pattern.hits, *hits)))))


def done(context: EditContext, *phrases: str) -> EditContext:
    for phrase in phrases:
        _, context = do(context, phrase)
    return context


def row(context: EditContext, voice: str) -> list[tuple[int, int]]:
    """(step, velocity) of the hits of a voice, grace notes left out."""
    hits = context.document.groove.pattern.hits
    return [(h.position_ticks // STEP, h.velocity) for h in hits if h.voice == voice and not h.grace]


def test_as_changes_what_is_chosen_and_else_places() -> None:
    context = stand_of()
    placed = done(context, "go crash 3", "as ghost")
    assert row(placed, "crash") == [(8, 32)] and placed.hits[0].role is Role.GHOST
    changed = done(context, "select kick at 1", "as ghost")
    assert row(changed, "kick")[0] == (0, 32) and len(row(changed, "kick")) == 3


def test_tilting_keeps_the_middle_and_moves_the_ends() -> None:
    tilted = done(stand_of(), "tilt 10 on tom_high")
    assert row(tilted, "tom_high") == [(0, 62), (8, 75), (12, 82)]
    assert row(done(stand_of(), "tilt -10 on tom_high"), "tom_high") == [(0, 82), (8, 69), (12, 62)]
    late = stand_of(text=GRID.replace("tom_high   x-------x---x---", "tom_high   ----x-------x---"))
    assert row(done(late, "tilt 10 on tom_high"), "tom_high") == [(4, 62), (12, 82)]


def test_turning_round_swaps_the_spots() -> None:
    turned = done(stand_of(), "mirror on tom_high")
    assert [at for at, _ in row(turned, "tom_high")] == [0, 4, 12]
    offset = stand_of(text=GRID.replace("tom_high   x-------x---x---", "tom_high   --x-x-------x---"))
    assert [at for at, _ in row(done(offset, "mirror on tom_high"), "tom_high")] == [2, 10, 12]


def test_shapes_pass_over_grace_notes_and_layers_keep_the_rest() -> None:
    grace = Hit(4 * STEP, "snare", 30, Role.GHOST, offset_ms=-25.0, grace=True)
    context = stand_of(grace)
    shaped = done(context, "accents beat on snare")
    graces = [h for h in shaped.document.groove.pattern.hits if h.grace]
    assert [(h.role, h.velocity) for h in graces] == [(Role.GHOST, 30)]
    layered = done(context, "layer off-beat on snare")
    assert {h.position_ticks // STEP for h in layered.document.groove.pattern.hits if h.role is Role.ACCENT} >= {
        4,
        10,
        12,
    }
    set_anew = done(context, "accents off-beat on snare")
    accents = [h for h in set_anew.document.groove.pattern.hits if h.voice == "snare" and h.role is Role.ACCENT]
    assert [h.position_ticks // STEP for h in accents] == [10]


def test_thinning_takes_ghosts_alone() -> None:
    context = stand_of()
    thin = done(context, "thin 50 on snare")
    assert len(row(thin, "snare")) == len(row(context, "snare")) - 2
    assert {(4, 108), (12, 108)} <= set(row(thin, "snare"))
    assert len(row(done(context, "thin 100 on snare"), "snare")) == 2
    with pytest.raises(InputError, match="no ghost"):
        do(context, "thin 50 on kick")


def test_typed_hands_go_to_moments_in_turn() -> None:
    typed = done(stand_of(), "hands RLL- on hat")
    hats = [h for h in typed.document.groove.pattern.hits if h.voice == "hat_closed"]
    assert "".join(h.limb_letter for h in hats) == "RLLRRLLR"
    with pytest.raises(InputError, match="Choose the hits"):
        do(stand_of(), "hands RLRL")


def test_open_hats_close_by_the_next_stroke_by_foot_or_by_length() -> None:
    text = "tempo 96\nhat_open x---x---x-------\nhat_closed --x-------------\nhat_pedal ------x---------"
    groove = parse_grid(text)
    ends = closings(groove.pattern, 0, groove.pattern.length_ticks)
    opens = {groove.pattern.hits[i].position_ticks // STEP: (at // STEP, by) for i, (at, by) in ends.items()}
    assert opens[0] == (2, "stroke") and opens[4] == (6, "stroke") and 2 not in opens and 6 not in opens
    shorter = done(stand_of(text=text), "length 1/16 on hat_open at 1")
    found = closings(shorter.document.groove.pattern, 0, 10 * STEP)
    first = min(found)
    assert found[first] == (STEP, "foot")


def test_the_first_stroke_of_a_roll_is_the_one_that_was_heard() -> None:
    origin = Origin(1.25, 0.9, "snare")
    roll = Hit(0, "snare", 80, Role.NORMAL, ornament="roll5", origin=origin)
    groove = parse_grid("tempo 96\nsnare ----------------").changed(hits=(roll,))
    strokes = spelled_out(groove).pattern.hits
    assert strokes[0].origin == origin and all(h.origin is None for h in strokes[1:])


def test_levels_have_to_rise() -> None:
    rules = Rules(levels=(("snare", Role.GHOST, 20), ("snare", Role.NORMAL, 60), ("snare", Role.ACCENT, 90)))
    assert [rules.level_of("snare", r) for r in Role] == [20, 60, 90]
    assert rules.bounds_of("snare") == (34, 80) and rules.band_of("snare", Role.NORMAL) == (34, 79)
    assert rules.bounds_of("kick") == (46, 96)
    assert [rules.role_of("snare", v) for v in (33, 34, 79, 80)] == [Role.GHOST, Role.NORMAL, Role.NORMAL, Role.ACCENT]
    for level in ((Role.GHOST, 80), (Role.ACCENT, 60), (Role.NORMAL, 20)):
        with pytest.raises(InputError, match="have to rise"):
            replace(rules, levels=(("tom_low", *level),))


def test_a_line_goes_straight_from_the_first_hit_to_the_last() -> None:
    drawn = done(stand_of(), "line 40 100 on hat")
    hats = row(drawn, "hat_closed")
    assert [v for _, v in hats] == [40, 49, 57, 66, 74, 83, 91, 100]
    for wrong in ("line 40 on hat", "line 40 100 20 on hat", "line 0 100 on hat"):
        with pytest.raises(InputError):
            do(stand_of(), wrong)


def test_accents_go_to_another_voice_and_graces_stay() -> None:
    grace = Hit(10 * STEP, "snare", 41, Role.NORMAL, offset_ms=-25.0, grace=True)
    moved = done(stand_of(grace), "accents-to tom_low on snare").document.groove.pattern
    assert [h.position_ticks // STEP for h in moved.hits if h.voice == "tom_low"] == [4, 12]
    assert [(h.velocity, h.role) for h in moved.hits if h.grace] == [(41, Role.NORMAL)]
    assert {h.role for h in moved.hits if h.voice == "snare" and not h.grace} == {Role.GHOST}


def test_several_beats_follow_a_syllable() -> None:
    for words in ("the & of 1, 3", "& of 1,3", "1&, 3&"):
        found = done(stand_of(), f"place crash {words}")
        assert [at for at, _ in row(found, "crash")] == [2, 10], words
    # Without a comma the beat behind is a spot of its own.
    assert [at for at, _ in row(done(stand_of(), "place crash & of 1 3"), "crash")] == [2, 8]


def test_voices_of_two_words() -> None:
    assert row(done(stand_of(), "place tom low 2"), "tom_low") == [(4, 72)]


def test_to_takes_ticks_and_milliseconds() -> None:
    context = stand_of()
    assert done(context, "select kick at 1", "to 10080 ticks").hits[0].position_ticks == 10080
    assert done(context, "select kick at 1", "to 625 ms").hits[0].position_ticks == 20160
    assert done(context, "select kick at 1", "to 2&").hits[0].position_ticks == 6 * STEP


def test_a_linear_part_is_switched() -> None:
    context = stand_of()

    def linear(*phrases: str) -> bool:
        return done(context, *phrases).document.groove.pattern.rules.linear

    assert linear("linear on") and linear("linear on", "linear on") and linear("linear toggle")
    assert (
        not linear("linear on", "linear off") and not linear("linear on", "linear toggle") and not linear("linear off")
    )


def test_what_the_last_round_cannot_hold_stays() -> None:
    """Sixteen steps in rounds of six: the third holds four, and an edit there says nothing of the other two."""
    context = stand_of(text="tempo 96\ntom_low x----x----------")
    cycled = done(context, "cycle 6 tom_low")
    assert [at for at, _ in row(cycled, "tom_low")] == [0, 5, 6, 11, 12]
    more = done(cycled, "place tom_low step 15")
    assert [at for at, _ in row(more, "tom_low")] == [0, 2, 5, 6, 8, 11, 12, 14]
    one = done(stand_of(text="tempo 96\ntom_low x---------------"), "cycle 1 tom_low")
    assert len(row(one, "tom_low")) == 16


def test_another_meter_holds_all_that_was_there() -> None:
    context = stand_of()
    three = done(context, "meter 3/4").document.groove.pattern
    assert (three.bars, len(three.hits)) == (2, len(context.document.groove.pattern.hits))
    assert done(context, "meter 2/4").document.groove.pattern.bars == 2
    assert done(context, "meter 7/8").document.groove.pattern.bars == 2


def test_bars_that_are_alike_are_told_by_what_is_struck() -> None:
    pattern = parse_grid("tempo 96\ngrid 8\nkick X---x---|X---x---|X-------|--------|--------").pattern
    assert alike_bars(pattern) == [[1, 2]]
    softer = replace(pattern, hits=tuple(replace(h, velocity=h.velocity - 5, offset_ms=3.0) for h in pattern.hits))
    assert alike_bars(softer) == [[1, 2]]


def test_a_jump_of_the_tempo_map_has_a_default() -> None:
    assert parse_grid("kick x---------------").tempo.bpm == (120.0,)


def test_an_accent_of_the_hat_is_one_of_the_hand() -> None:
    text = "tempo 96\nhat_closed x---x---x---x---\nhat_pedal --x---x---x---x-"
    shaped = done(stand_of(text=text), "accents beat on hats")
    assert {h.role for h in shaped.document.groove.pattern.hits if h.voice == "hat_pedal"} == {Role.NORMAL}
    assert {h.role for h in shaped.document.groove.pattern.hits if h.voice == "hat_closed"} == {Role.ACCENT}


def test_a_version_of_the_same_name_in_other_letters_is_the_same() -> None:
    kept = done(stand_of(), "keep First Try", "velocity 20 on kick", "keep first try")
    assert [s.name for s in kept.document.snapshots] == ["first try"]
    assert done(kept, "drop FIRST TRY").document.snapshots == ()


def test_bars_are_counted_in_two_or_in_four() -> None:
    here = EditContext(Document("x", parse_grid("kick x---x---x---x---")))
    words, after = do(here, "count two")
    assert str(after.document.groove.pattern.meter) == "2/2" and words.startswith("Counted in two")
    assert after.document.groove.pattern.hits == here.document.groove.pattern.hits
    assert "already" in do(after, "count two")[0]
    _, back = do(after, "count")
    assert str(back.document.groove.pattern.meter) == "4/4"
    for text in ("meter 3/4\nkick x-----------", "meter 7/8\ngrid 8\nkick x------"):
        with pytest.raises(InputError):
            do(EditContext(Document("x", parse_grid(text))), "count two")
