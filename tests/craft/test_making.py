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
from ghoststep.session.language.stand import Stand
from ghoststep.session.language.verb import do

BAR, STEP = 80640, 5040
ROCK = """tempo 100
hat_closed x-x-x-x-x-x-x-x- | x-x-x-x-x-x-x-x-
snare ----X-------X--- | ----X-------X---
kick X-------X------- | X-------X-------
"""


def stand(text: str = ROCK) -> Stand:
    return Stand(Document("x", parse_grid(text)))


def struck(stand: Stand, name: str, bar: int) -> list[int]:
    start = (bar - 1) * BAR
    return [(h.position_ticks - start) // STEP for h in stand.document.groove.pattern.hits
            if h.voice == name and start <= h.position_ticks < start + BAR]  # fmt: skip


# -- fills --------------------------------------------------------------------------------------------------------


def test_a_fill_moves_a_cell_over_the_drums_and_lands_on_the_next_one() -> None:
    words, after = do(stand(), "fill-in 2 in 1 cell RLLK over snare tom_low")
    assert "RLLK over snare, tom_low" in words
    assert struck(after, "snare", 1) == [4, 8, 9, 10] and struck(after, "tom_low", 1) == [12, 13, 14]
    assert struck(after, "kick", 1) == [0, 11, 15] and struck(after, "hat_closed", 1) == [0, 2, 4, 6]
    assert struck(after, "crash", 2) == [0] and struck(after, "hat_closed", 2)[0] == 2
    limbs = [h.limb for h in after.document.groove.pattern.hits if 8 * STEP <= h.position_ticks < BAR]
    assert "".join(limbs) == "RLLKRLLK"


def test_a_fill_can_be_typed_in_triplets_without_its_last_stroke_and_land_on_nothing() -> None:
    _, after = do(stand(), "fill-in 1 in 2 cell RLK! over snare grid 24 landing nothing")
    assert [h.limb for h in after.document.groove.pattern.hits if h.position_ticks >= BAR + 12 * STEP] == list("RLKRL")
    assert struck(after, "crash", 1) == []
    _, looped = do(stand(), "fill-in 4 in 2 cell RL over snare tom_high tom_low move cell")
    assert struck(looped, "crash", 1) == [0]  # the loop's own beginning


@pytest.mark.parametrize("cell", CELLS)
def test_every_cell_of_the_shelf_can_be_played(cell: str) -> None:
    _, after = do(stand(), f"fill-in 4 in 2 cell {cell}")
    found = [f for f in checked(after.document.groove, Terms()).findings if f.kind == "impossible"]
    assert found == [], (cell, found)


@pytest.mark.parametrize(
    "phrase",
    ["fill-in 2 in 9", "fill-in 2 in 2 cell RXL", "fill-in 2 over kick", "fill-in 2 over gong", "fill-in 2 grid 7"],
)
def test_a_fill_that_cannot_be_is_refused(phrase: str) -> None:
    with pytest.raises(InputError):
        do(stand(), phrase)


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
    words, after = do(stand(), "start linear-funk")
    assert "84 to 104 BPM" in words and after.document.groove.pattern.rules.linear
    ticks = [h.position_ticks for h in after.document.groove.pattern.hits]
    assert len(ticks) == len(set(ticks))
    with pytest.raises(InputError):
        do(stand(), "start polka")
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
    here = stand("meter 12/8\ngrid 8\nkick X-----X-----") if line.length == 12 else stand()
    _, after = do(here, f"time-line {line.name} with cowbell side {side}")
    found = recognised(after.document.groove.pattern)
    assert found and found[0].voice == "cowbell" and found[0].share == 1
    assert any(r.line == line.name and r.side in (side, "") for r in found if r.share == 1)
    assert line.name in do(after, "time-lines")[0]


def test_what_is_none_is_not_recognised() -> None:
    assert do(stand(), "time-lines")[0].startswith("No clave")
    assert recognised(parse_grid("cross_stick x---x---x---x---").pattern) == []


# -- other voices, and simpler ------------------------------------------------------------------------------------


def test_the_same_rhythm_goes_round_other_voices() -> None:
    here = stand()
    _, after = do(here, "revoice to tom_high tom_low on hat_closed bars 1")
    before = [h.position_ticks for h in here.document.groove.pattern.hits]
    assert [h.position_ticks for h in after.document.groove.pattern.hits] == before
    assert struck(after, "tom_high", 1) == [0, 4, 8, 12] and struck(after, "tom_low", 1) == [2, 6, 10, 14]
    _, kept = do(here, "revoice to snare on hat_closed bars 1")
    assert struck(kept, "hat_closed", 1) == [4, 12]  # the snare is struck there already
    with pytest.raises(InputError):
        do(here, "revoice to gong on hat_closed")


def test_a_part_becomes_simpler_step_by_step_and_keeps_its_core() -> None:
    text = "hat_closed xxxxxxxxxxxxxxxx\nsnare ---oX--o-o--X--o\nkick Xx------X-x-----"
    here = stand(text)
    words, after = do(here, "simplify 3")
    assert words == "Simpler: no ghosts, no doubles, eighths for sixteenths"
    assert struck(after, "snare", 1) == [4, 12] and struck(after, "kick", 1) == [0, 8, 10]
    assert struck(after, "hat_closed", 1) == [0, 2, 4, 6, 8, 10, 12, 14]
    assert not [h for h in after.document.groove.pattern.hits if h.role is Role.GHOST]
    assert "as simple as" in do(after, "simplify")[0]


# -- layers -------------------------------------------------------------------------------------------------------


@pytest.mark.parametrize("name", [x.name for x in LAYERS])
def test_every_layer_can_be_played_with_kick_and_snare(name: str) -> None:
    words, after = do(stand(), f"lay {name}")
    assert words
    voices = {v for v, _ in layer(name).rows}
    assert voices <= set(after.document.groove.pattern.voices)
    assert not [f for f in checked(after.document.groove, Terms()).findings if f.kind == "impossible"]
    if "ride" in voices:
        assert struck(after, "hat_closed", 1) == []  # the hand that keeps time has moved


def test_a_layer_leaves_out_what_no_hand_is_free_for_and_goes_over_any_meter() -> None:
    here = stand("snare x---------------\ncrash x---------------")
    _, after = do(here, "lay hat-quarters")
    assert struck(after, "hat_closed", 1) == [4, 8, 12]
    odd = stand("meter 7/8 2+2+3\ngrid 16\nsnare ----x---------")
    _, after = do(odd, "lay hat-eighths")
    assert struck(after, "hat_closed", 1) == [0, 2, 4, 6, 8, 10, 12]
    with pytest.raises(InputError, match="There are: hat-quarters"):
        layer("hat-waltz")
