"""What people type first: plain words for voices, spots, units and the whole, and an answer that helps."""

import pytest

from ghoststep.files.textgrid import parse_grid
from ghoststep.files.textgrid_out import grid_text
from ghoststep.music.errors import InputError
from ghoststep.music.touch import Role
from ghoststep.session.document.document import Document
from ghoststep.session.edits.commit import opened
from ghoststep.session.language.doing import call, do
from ghoststep.session.language.edit_context import EditContext
from ghoststep.session.language.verb import all_verbs, other_words

GRID = """
tempo 96
crash       X--------------- | ---------------- | X--------------- | ----------------
hat_closed  x-x-x-x-x-x-x-x- | x-x-x-x-x-x-x-x- | x-x-x-x-x-x-x-x- | x-x-x-x-x-x-x-x-
hat_open    ---------------- | --------------x- | ---------------- | ----------------
cross_stick ---------------- | ------------x--- | ---------------- | ----------------
snare       ----X--o-o--X--- | ----X--o-o--X--- | ----X--o-o--X--- | ----X--o-o--X---
kick        --x----x--X----- | X------x--X---x- | --x----x--X----- | X------x--X-----
"""


@pytest.fixture
def context() -> EditContext:
    return EditContext(opened(Document("depot", parse_grid(GRID))))


def lane(context: EditContext, name: str) -> list[str]:
    rows = [row for row in grid_text(context.document.groove).splitlines() if row.split("/")[0].split()[0] == name]
    return rows[0].split(None, 1)[1].split(" | ") if rows else []


def done(context: EditContext, phrase: str) -> EditContext:
    return do(context, phrase)[1]


def test_places_are_named_as_people_say_them(context: EditContext) -> None:
    assert [row[15] for row in lane(done(context, "place snare 4a bars 2-4"), "snare")] == ["-", "x", "x", "x"]
    middle = done(context, "place kick between step 12 and 13 bar 1").hits
    assert [h.position_ticks for h in middle] == [int(11.5 * 5040)]
    under = done(context, "place kick under every crash")
    assert lane(under, "kick")[0][0] == lane(under, "kick")[2][0] == "x"
    moved = done(context, "move kick 3& to 4&")
    assert lane(moved, "kick")[0] == "--x----x------X-"
    assert done(context, "go bar 3 2e").cursor_ticks == (32 + 5) * 5040
    assert do(context, "go 2a")[0] == "At 2a of bar 1"


@pytest.mark.parametrize(
    ("phrase", "unit", "ratio"),
    [("swing 57%", 16, 0.57), ("swing 16ths 57%", 16, 0.57), ("swing 8ths 60", 8, 0.6), ("swing triplet", 16, 2 / 3)],
)
def test_swing_is_said_in_many_ways(context: EditContext, phrase: str, unit: int, ratio: float) -> None:
    swing = done(context, phrase).document.groove.feel.swing
    assert (swing.unit, swing.ratio) == (unit, pytest.approx(ratio))


def test_other_words_for_what_there_is(context: EditContext) -> None:
    assert done(context, "humanize 5").document.groove.feel.loose_ms == 5
    choked = done(context, "choke crash at 3").document.groove.pattern
    assert {h.length_ticks for h in choked.hits if h.voice == "crash"} == {2 * 20160}
    closed = done(context, "close hat at bar 3 1").document.groove.pattern
    assert next(h for h in closed.hits if h.voice == "hat_open").length_ticks == 2 * 5040
    for word, voice in (("bd", "kick"), ("sd", "snare"), ("hh", "hat_closed"), ("hihat", "hat_closed")):
        assert done(context, f"place {word} 1e bar 2").hits[0].voice == voice


def test_accents_by_number_and_every(context: EditContext) -> None:
    beats = done(context, "accents 1,4 on hat bars 1").document.groove.pattern
    first = [h for h in beats.hits if h.voice == "hat_closed" and h.position_ticks < 16 * 5040]
    assert {h.position_ticks for h in first if h.role is Role.ACCENT} == {0, 60480}
    ghosts = done(context, "accents 2,4 on snare").document.groove.pattern  # beats are meant, and no ghost is one
    assert {h.position_ticks % 80640 for h in ghosts.hits if h.voice == "snare" and h.role is Role.ACCENT} == {
        20160,
        60480,
    }
    assert all(h.position_ticks % 20160 == 10080 for h in done(context, "select hat at every &").hits)


def test_lanes_turn_by_themselves(context: EditContext) -> None:
    turned = done(context, "rotate 8 cross_stick")
    assert lane(turned, "cross_stick")[2] == "----x-----------" and lane(turned, "snare") == lane(context, "snare")


def test_time_of_some_bars(context: EditContext) -> None:
    tempo = done(context, "tempo 80 bars 3-4").document.groove.tempo
    assert tempo.bpm_at(0) == 96 and tempo.bpm_at(2 * 80640) == 80
    assert done(context, "tempo 75 %").document.groove.tempo.main_bpm == 72
    assert done(context, "tempo 96 to 120 bars 2-3").document.groove.tempo.bpm_at(3 * 80640) == 120
    assert done(context, "double-bar 1-2").document.groove.pattern.bars == 6
    grids = done(context, "grid triplets hat bars 2").document.groove.pattern
    assert grids.grid_at("hat_closed", 80640) == 12 and grids.grid_at("kick", 80640) == 16
    assert str(done(context, "meter 7/8 2+2+3 bars 2").document.groove.pattern.frame.meter_of(2)) == "7/8"


@pytest.mark.parametrize(
    ("phrase", "says"),
    [
        ("nudge 5%", "is given in ms"),
        ("velocity 80ms", "not a velocity"),
        ("velocity 500", "1 to 127"),
        ("lean snare 12dB", "is given in ms"),
        ("tempo 5000", "BPM"),
        ("swnig 57%", "Did you mean: swing 57%"),
        ("tempo fast", "For example: tempo"),
        ("place gong 1", "place snare 4a bars 2-4"),
        ("wibble it softly", "The nearest that is understood"),
        ("select", "For example: select"),
        ("move kick 9& to 1", "'9&' lies outside a bar of 4/4"),
    ],
)
def test_what_is_not_understood_is_answered_with_what_is(context: EditContext, phrase: str, says: str) -> None:
    with pytest.raises(InputError) as refused:
        do(context, phrase)
    assert says in str(refused.value)


def test_a_role_is_relative_to_its_voice(context: EditContext) -> None:
    accents = [h for h in done(context, "velocity 80 on accents").hits if h.role is not Role.ACCENT]
    assert not accents
    quiet = done(context, "velocity 20 on snare accents")
    assert {h.role for h in quiet.hits} == {Role.GHOST}


@pytest.mark.parametrize("name", sorted(all_verbs()))
def test_every_example_is_understood(context: EditContext, name: str) -> None:
    """An example may find nothing to work on in this groove, but never words that mean nothing."""
    found = all_verbs()[name]
    assert found.line.startswith(name) and found.about and found.example.split()[0] in (name, *other_words())
    try:
        words, after = do(context, found.example)
        assert words or after.asks
    except InputError as error:
        assert "is no command" not in str(error) and "says nothing here" not in str(error), str(error)


def test_verbs_are_called_with_values_as_well(context: EditContext) -> None:
    said, after = call(done(context, "select snare accents"), "role", role="ghost")
    assert {h.role for h in after.hits} == {Role.GHOST} and said
    with pytest.raises(TypeError, match="not"):
        call(context, "velocity", loudness=3)
