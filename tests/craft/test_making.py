"""Fills, styles to start from, time lines, the same rhythm on other voices, simpler parts."""

import pytest

from ghoststep.craft.fills import CELLS, Fill, filled
from ghoststep.craft.layers import LAYERS, layer
from ghoststep.craft.styles import STYLES, style
from ghoststep.craft.timelines import TIME_LINES, positions, recognised, time_line
from ghoststep.files.textgrid import parse_grid
from ghoststep.judge.check import Terms, checked
from ghoststep.music.errors import InputError
from ghoststep.music.touch import Role
from ghoststep.session.document.document import Document
from ghoststep.session.edits.commit import opened
from ghoststep.session.language.doing import do
from ghoststep.session.language.edit_context import EditContext
from ghoststep.session.language.ways import REVOICINGS, layers, tried

BAR, STEP = 80640, 5040
ROCK = """tempo 100
hat_closed x-x-x-x-x-x-x-x- | x-x-x-x-x-x-x-x-
snare ----X-------X--- | ----X-------X---
kick X-------X------- | X-------X-------
"""


def context(text: str = ROCK) -> EditContext:
    return EditContext(Document("x", parse_grid(text)))


def struck(context: EditContext, name: str, bar: int) -> list[int]:
    start = (bar - 1) * BAR
    return [(h.position_ticks - start) // STEP for h in context.document.groove.pattern.hits
            if h.voice == name and start <= h.position_ticks < start + BAR]  # fmt: skip


# -- fills --------------------------------------------------------------------------------------------------------


def test_a_fill_moves_a_cell_over_the_drums_and_lands_on_the_next_one() -> None:
    words, after = do(context(), "fill-in 2 in 1 cell RLLK over snare tom_low")
    assert "RLLK over snare, tom_low" in words
    assert struck(after, "snare", 1) == [4, 8, 9, 10] and struck(after, "tom_low", 1) == [12, 13, 14]
    assert struck(after, "kick", 1) == [0, 11, 15] and struck(after, "hat_closed", 1) == [0, 2, 4, 6]
    assert struck(after, "crash", 2) == [0] and struck(after, "hat_closed", 2)[0] == 2
    limbs = [h.limb for h in after.document.groove.pattern.hits if 8 * STEP <= h.position_ticks < BAR]
    assert "".join(limbs) == "RLLKRLLK"


def test_a_fill_can_be_typed_in_triplets_without_its_last_stroke_and_land_on_nothing() -> None:
    _, after = do(context(), "fill-in 1 in 2 cell RLK! over snare grid 24 landing nothing")
    assert [h.limb for h in after.document.groove.pattern.hits if h.position_ticks >= BAR + 12 * STEP] == list("RLKRL")
    assert struck(after, "crash", 1) == []
    _, looped = do(context(), "fill-in 4 in 2 cell RL over snare tom_high tom_low move cell")
    assert struck(looped, "crash", 1) == [0]  # the loop's own beginning


@pytest.mark.parametrize("cell", CELLS)
def test_every_cell_of_the_shelf_can_be_played(cell: str) -> None:
    _, after = do(context(), f"fill-in 4 in 2 cell {cell}")
    found = [f for f in checked(after.document.groove, Terms()).findings if f.kind == "impossible"]
    assert found == [], (cell, found)


@pytest.mark.parametrize(
    "phrase",
    ["fill-in 2 in 9", "fill-in 2 in 2 cell RXL", "fill-in 2 over kick", "fill-in 2 over gong", "fill-in 2 grid 7"],
)
def test_a_fill_that_cannot_be_is_refused(phrase: str) -> None:
    with pytest.raises(InputError):
        do(context(), phrase)


def test_a_fill_needs_room() -> None:
    pattern = parse_grid(ROCK).pattern
    with pytest.raises(InputError, match="room"):
        filled(pattern, BAR, BAR, Fill("RL"))


# -- styles -------------------------------------------------------------------------------------------------------


@pytest.mark.parametrize("name", [s.name for s in STYLES])
def test_every_style_can_be_played_at_its_usual_tempo(name: str) -> None:
    found = style(name)
    groove = found.groove()
    assert found.low_bpm < groove.tempo.main_bpm < found.high_bpm
    findings = checked(groove, Terms(styles=frozenset({"machine"}))).findings
    assert not [f for f in findings if f.kind == "impossible"]
    assert len(found.groove(1).pattern.voices) == 1
    feet, hands = found.groove(1).pattern.voices[0], found.groove(1, hands_first=True).pattern.voices[0]
    assert feet in ("kick", "hat_pedal") and hands not in ("kick", "hat_pedal")


def test_a_style_takes_the_place_of_the_groove_and_linear_stays_linear() -> None:
    words, after = do(context(), "start linear-funk")
    assert "84 to 104 BPM" in words and after.document.groove.pattern.rules.linear
    ticks = [h.position_ticks for h in after.document.groove.pattern.hits]
    assert len(ticks) == len(set(ticks))
    with pytest.raises(InputError):
        do(context(), "start polka")
    with pytest.raises(InputError, match="There are: four-on-the-floor"):
        style("polka")


# -- time lines ---------------------------------------------------------------------------------------------------


def test_claves_stand_where_the_books_have_them_and_turn() -> None:
    assert positions(time_line("son"), 2 * BAR) == [t * 2 * STEP for t in (0, 3, 6, 10, 12)]
    assert positions(time_line("rumba"), 2 * BAR, "2-3") == [t * 2 * STEP for t in (2, 4, 8, 11, 15)]
    assert positions(time_line("tresillo"), BAR, unit=STEP) == [t * STEP for t in (0, 3, 6, 8, 11, 14)]
    with pytest.raises(InputError, match="no time line"):
        time_line("waltz")


@pytest.mark.parametrize("line", TIME_LINES)
@pytest.mark.parametrize("side", ["3-2", "2-3"])
def test_every_time_line_is_recognised_on_its_voice(line, side: str) -> None:  # type: ignore[no-untyped-def]
    here = context("meter 12/8\ngrid 8\nkick X-----X-----") if line.length == 12 else context()
    _, after = do(here, f"time-line {line.name} with cowbell side {side}")
    found = recognised(after.document.groove.pattern)
    assert found and found[0].voice == "cowbell" and found[0].share == 1
    assert any(r.line == line.name and r.side in (side, "") for r in found if r.share == 1)
    assert line.name in do(after, "time-lines")[0]


def test_a_time_line_varies_a_little_and_is_still_known() -> None:
    _, four = do(context(), "double-bar 1-2")
    _, plain = do(four, "time-line son with cowbell in 16")
    _, varied = do(four, "time-line son with cowbell in 16 vary 2")
    struck = [[h.position_ticks // STEP for h in s.document.groove.pattern.hits if h.voice == "cowbell"]
              for s in (plain, varied)]  # fmt: skip
    assert len(struck[0]) == len(struck[1]) == 20
    cycles = [[t % 16 for t in struck[1] if t // 16 == k] for k in range(4)]
    assert cycles[0] == cycles[2] == [0, 3, 6, 10, 12]
    assert cycles[1] != cycles[3] and all(c[0] == 0 and len(set(c) - {0, 3, 6, 10, 12}) == 2 for c in cycles[1::2])
    with pytest.raises(InputError, match="0 to 2"):
        do(four, "time-line son vary 3")


def test_what_is_none_is_not_recognised() -> None:
    assert do(context(), "time-lines")[0].startswith("No clave")
    assert recognised(parse_grid("cross_stick x---x---x---x---").pattern) == []


# -- other voices, and simpler ------------------------------------------------------------------------------------


def test_the_same_rhythm_goes_round_other_voices() -> None:
    here = context()
    _, after = do(here, "revoice to tom_high tom_low on hat_closed bars 1")
    before = [h.position_ticks for h in here.document.groove.pattern.hits]
    assert [h.position_ticks for h in after.document.groove.pattern.hits] == before
    assert struck(after, "tom_high", 1) == [0, 4, 8, 12] and struck(after, "tom_low", 1) == [2, 6, 10, 14]
    _, kept = do(here, "revoice to snare on hat_closed bars 1")
    assert struck(kept, "hat_closed", 1) == [4, 12]  # the snare is struck there already
    with pytest.raises(InputError):
        do(here, "revoice to gong on hat_closed")


def test_clashes_and_what_nobody_can_reach_are_told() -> None:
    groove = parse_grid("tempo 100\nhat_closed x-x-x-x-x-x-x-x-\nride ----x-----------\nsnare ----X-------X---\n")
    here = EditContext(opened(Document("x", groove)))
    words, after = do(here, "revoice to ride on hat")
    assert "on 2 somebody strikes there already" in words and "on hat" not in words
    there = {h.voice for h in after.document.groove.pattern.hits if h.position_ticks == 4 * STEP}
    assert there == {"hat_closed", "ride", "snare"}
    rows = "tempo 100\nhat_closed x---x---x---x---\nsnare ----X-------X---\n"
    plain = EditContext(opened(Document("x", parse_grid(rows))))
    assert "2 spots cannot be reached: F4 shows them" in do(plain, "revoice to hat_open on snare")[0]


def test_ways_on_are_tried_before_they_are_offered() -> None:
    groove = parse_grid("tempo 100\nhat_closed x-x-x-x-x-x-x-x-\nsnare ----X--o----X---\nkick X-----x---------\n")
    here = EditContext(opened(Document("x", groove)))
    found = tried(here, REVOICINGS)
    assert len(found) == len(REVOICINGS) and all(t.context.document.groove.pattern != groove.pattern for t in found)
    accents = next(t for t in found if t.about.startswith("Accents on the toms"))
    voices = [(h.position_ticks // STEP, h.voice) for h in accents.context.document.groove.pattern.hits]
    assert (4, "tom_high") in voices and (12, "tom_low") in voices and (7, "snare") in voices
    only_kick = EditContext(opened(Document("x", parse_grid("tempo 100\nkick x---x---x---x---\n"))))
    assert tried(only_kick, REVOICINGS) == []
    told = [t.about for t in tried(here, layers())]
    assert "The hat in eighths, the beat stronger" in told
    assert any(w.startswith("3-2 son on the cross-stick") for w in told)
    assert any("nobody can play" in w for w in told)
    _, kicks = do(only_kick, "role accent on kick")
    assert all(t.about != "A kick on every beat" for t in tried(EditContext(kicks.document), layers()))


def test_the_hat_in_sixteenths_goes_hand_to_hand_or_with_one() -> None:
    for name, limbs in (("hat-sixteenths", {"R"}), ("hat-sixteenths-two", {"R", "L"})):
        _, after = do(context(), f"lay {name}")
        assert {h.limb for h in after.document.groove.pattern.hits if h.voice == "hat_closed"} == limbs


def test_a_part_becomes_simpler_step_by_step_and_keeps_its_core() -> None:
    text = "hat_closed xxxxxxxxxxxxxxxx\nsnare ---oX--o-o--X--o\nkick Xx------X-x-----"
    here = context(text)
    words, after = do(here, "simplify 3")
    assert words == "Simpler: no ghosts, no doubles, eighths for sixteenths"
    assert struck(after, "snare", 1) == [4, 12] and struck(after, "kick", 1) == [0, 8, 10]
    assert struck(after, "hat_closed", 1) == [0, 2, 4, 6, 8, 10, 12, 14]
    assert not [h for h in after.document.groove.pattern.hits if h.role is Role.GHOST]
    assert "as simple as" in do(after, "simplify")[0]


# -- layers -------------------------------------------------------------------------------------------------------


@pytest.mark.parametrize("name", [x.name for x in LAYERS])
def test_every_layer_can_be_played_with_kick_and_snare(name: str) -> None:
    words, after = do(context(), f"lay {name}")
    assert words
    voices = {v for v, _ in layer(name).rows}
    assert voices <= set(after.document.groove.pattern.voices)
    assert not [f for f in checked(after.document.groove, Terms()).findings if f.kind == "impossible"]
    if "ride" in voices:
        assert struck(after, "hat_closed", 1) == []  # the hand that keeps time has moved


def test_a_layer_leaves_out_what_no_hand_is_free_for_and_goes_over_any_meter() -> None:
    here = context("snare x---------------\ncrash x---------------")
    _, after = do(here, "lay hat-quarters")
    assert struck(after, "hat_closed", 1) == [4, 8, 12]
    odd = context("meter 7/8 2+2+3\ngrid 16\nsnare ----x---------")
    _, after = do(odd, "lay hat-eighths")
    assert struck(after, "hat_closed", 1) == [0, 2, 4, 6, 8, 10, 12]
    with pytest.raises(InputError, match="There are: hat-quarters"):
        layer("hat-waltz")
