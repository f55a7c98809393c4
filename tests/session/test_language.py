"""The language of commands, on the core alone."""

import pytest

from ghoststep.craft.ghosts import proposals
from ghoststep.files.textgrid import parse_grid
from ghoststep.files.textgrid_out import grid_text as as_text
from ghoststep.music.errors import InputError
from ghoststep.music.kit import LANE_OF_VOICE
from ghoststep.music.touch import Role
from ghoststep.session.commands import COMMANDS, do_named
from ghoststep.session.document.document import Document
from ghoststep.session.language.doing import do
from ghoststep.session.language.edit_context import EditContext
from ghoststep.session.language.verb import all_verbs


@pytest.fixture
def context(grid_text: str) -> EditContext:
    return EditContext(Document("depot", parse_grid(grid_text)))


def done(context: EditContext, *phrases: str) -> EditContext:
    for phrase in phrases:
        _, context = do(context, phrase)
    return context


def lane(context: EditContext, name: str) -> str:
    """A lane of the groove as a text grid writes it, or nothing."""
    lines = [x for x in as_text(context.document.groove).splitlines() if x.split("/")[0].split()[0] == name]
    return lines[0].split(None, 1)[1] if lines else ""


def test_targets_name_hits(context: EditContext) -> None:
    def count(words: str) -> int:
        return len(done(context, f"select {words}").chosen)

    total = len(context.document.groove.pattern.hits)
    assert count("everything") == total
    assert count("snare ghosts") == 5 and count("snare ghosts bars 2") == 2 and count("snare ghosts bar here") == 3
    assert count("kick snare") == count("kick") + count("snare") and count("hats") == 16
    assert count("kick at 1") == 2 and count("snare at the a of 2, 3e") == 4 and count("kick at 1 bars 2") == 1
    assert count("beats 2,4 snare accents") == 4 and count("limb L") == count("snare")
    assert count("louder 100") == count("accents") and count("softer 40") == count("ghosts")
    chosen = done(context, "select snare", "select chosen accents")
    assert len(chosen.chosen) == 4


@pytest.mark.parametrize(
    ("words", "says"),
    [
        ("gong", "names no hits"),
        ("bars 9", "There is no bar 9"),
        ("bars two", "no list of bars"),
        ("at 9", "outside a bar"),
        ("limb X", "no limb"),
        ("stroke kiss", "no stroke"),
        ("bars", "has to follow"),
        ("", "which hits"),
    ],
)
def test_what_names_no_hits_is_said(context: EditContext, words: str, says: str) -> None:
    with pytest.raises(InputError, match=says):
        do(context, f"select {words}")


def test_on_names_what_a_command_is_for(context: EditContext) -> None:
    after = done(context, "velocity 99 on snare ghosts bars 1")
    assert sorted(h.velocity for h in after.hits) == [99, 99, 99]
    with pytest.raises(InputError, match="No hit is"):
        do(context, "velocity 99 on crash")
    with pytest.raises(InputError, match="Did you mean: velocity 99"):
        do(context, "velocty 99")


def test_placing_and_moving(context: EditContext) -> None:
    after = done(context, "place snare bar 2 2e as ghost")
    assert [(h.voice, h.position_ticks, h.role) for h in after.hits] == [("snare", 80640 + 25200, Role.GHOST)]
    after = done(after, "nudge +1/64", "nudge -3")
    assert after.hits[0].position_ticks == 80640 + 25200 + 1260 and after.hits[0].offset_ms == -3
    after = done(after, "to bar 1 1e", "voice tom_high", "limb R")
    assert (after.hits[0].position_ticks, after.hits[0].voice, after.hits[0].limb) == (5040, "tom_high", "R")
    for phrase, says in (
        ("move -1 bar", "out of the pattern"),
        ("place snare bar 3 1", "no bar 3"),
        ("nudge 1/0", "length"),
    ):
        with pytest.raises(InputError, match=says):
            do(after, phrase)


def test_accents_are_shaped_and_moved(context: EditContext) -> None:
    assert lane(done(context, "accents off-beat on hat"), "hat_closed").startswith("x-X-x-X-x-X-x-X-")
    assert lane(done(context, "accents every 3 on hat"), "hat_closed") == "X-x-x-X-x-x-X-x- | x-X-x-x-X-x-x-X-"
    layered = done(context, "layer off-beat on hat bars 1", "layer beat on hat bars 1")
    assert lane(layered, "hat_closed") == "X-X-X-X-X-X-X-X- | x-x-x-x-x-x-x-x-"
    moved = done(context, "accents-to tom_high on snare")
    assert lane(moved, "tom_high").startswith("----X-------X---") and lane(moved, "snare").startswith(
        "-------o-o-----o"
    )
    with pytest.raises(InputError, match="no accent"):
        do(context, "accents-to tom_high on hat")


def test_ghosts_are_taken_filled_and_thinned(context: EditContext) -> None:
    found = proposals(context.document.groove)
    assert len(done(context, "ghosts 1").document.groove.pattern.hits) == len(
        context.document.groove.pattern.hits
    ) + len(found[0].hits)
    full = done(context, "accents every 3 on hat", "fill snare under hat")
    pattern = full.document.groove.pattern
    assert all(h.velocity < 46 for h in full.hits)
    accents = {h.position_ticks for h in pattern.hits if h.voice == "hat_closed" and h.role is Role.ACCENT}
    assert not accents & {h.position_ticks for h in full.hits}
    ghosts = sum(h.role is Role.GHOST for h in pattern.hits)
    thin = done(full, "thin 50 on snare")
    assert sum(h.role is Role.GHOST for h in thin.document.groove.pattern.hits) == ghosts - round(ghosts / 2)


def test_a_lane_that_repeats_stays_alike(context: EditContext) -> None:
    cycled = done(context, "cycle 3 hat_closed")
    assert lane(cycled, "hat_closed") == "x-xx-xx-xx-xx-xx | -xx-xx-xx-xx-xx-"
    edited = done(cycled, "place hat_closed bar 2 1 as accent")
    assert lane(edited, "hat_closed") == "xXxxXxxXxxXxxXxx | XxxXxxXxxXxxXxxX"
    gone = done(edited, "remove on hat_closed at 1 bars 1")
    assert lane(gone, "hat_closed").startswith("-Xx-Xx")
    moved = done(gone, "move 2 steps on hat_closed at 1e bars 1")
    assert moved.document.groove.pattern.rules.cycles == ((LANE_OF_VOICE["hat_closed"], 3 * 5040),)
    assert done(moved, "cycle 0 hat_closed").document.groove.pattern.rules.cycles == ()
    with pytest.raises(InputError, match="longer than the groove"):
        do(context, "cycle 100 kick")


def test_a_linear_part_stays_linear(context: EditContext) -> None:
    words, linear = do(context, "linear on")
    assert "spots are not yet" in words
    words, after = do(linear, "place kick 1& bars 1")
    assert "takes the place of hat closed" in words
    at = [h.voice for h in after.document.groove.pattern.hits if h.position_ticks == 10080]
    assert at == ["kick"]
    assert do(done(linear, "linear off"), "place kick 1& bars 1")[0] == "Kick 1& placed"
    # Another hand or velocity for what stands there already takes nothing away.
    for phrase in ("hands RLRRLRLL on hat", "velocity +9 on everything", "stroke rim on snare"):
        assert len(done(linear, phrase).document.groove.pattern.hits) == len(linear.document.groove.pattern.hits)


def test_grids_of_lanes_and_bars(context: EditContext) -> None:
    after = done(context, "grid triplets hat_closed", "grid 32 bars 2")
    pattern = after.document.groove.pattern
    assert pattern.grid_at("hat_closed", 90000) == 12 and pattern.grid_at("kick", 90000) == 32
    assert pattern.stretches("kick") == [(0, 80640, 5040), (80640, 161280, 2520)]
    assert done(after, "grid 16 bars 2").document.groove.pattern.passages == ()
    assert done(after, "grid quintuplets").document.groove.pattern.grid == 20
    for phrase, says in (("grid 13", "divides"), ("grid", "Which grid"), ("grid 32 bars 5", "no bar 5")):
        with pytest.raises(InputError, match=says):
            do(context, phrase)


def test_time_is_put_in_and_taken_out(context: EditContext) -> None:
    go = done(context, "go kick 2")
    longer = done(go, "insert 1/4")
    assert longer.document.groove.pattern.bars == 3
    assert lane(longer, "kick").startswith("X----------x--X- | ----X------x--X-")
    assert lane(done(longer, "delete 1/4"), "kick").startswith("X------x--X----- | X------x--X---x-")
    assert done(go, "insert 1 bar").document.groove.pattern.bars == 3
    assert done(go, "go kick bar 2 1", "delete 1 bar").document.groove.pattern.bars == 1
    with pytest.raises(InputError, match="past the end"):
        do(go, "delete 2 bars")
    with pytest.raises(InputError, match="nothing to insert"):
        do(go, "insert 0 steps")


def test_copies_keep_their_spots(context: EditContext) -> None:
    copied = done(context, "copy on snare bars 1", "go snare bar 2 1")
    pasted = done(copied, "remove on snare bars 2", "paste")
    assert lane(pasted, "snare") == "----X--o-o--X--o | ----X--o-o--X--o"
    onto = done(copied, "go tom_high bar 2 1", "paste")
    assert lane(onto, "tom_high") == "---------------- | ----X--o-o--X--o"
    with pytest.raises(InputError, match="does not fit"):
        do(done(copied, "go snare bar 2 3"), "paste here")
    with pytest.raises(InputError, match="Nothing was copied"):
        do(context, "paste")


def test_find_and_replace(context: EditContext) -> None:
    after = done(context, "replace hat_closed at & of 4 bars 1 with hat_open")
    assert lane(after, "hat_open").startswith("--------------x-")
    assert lane(done(after, "replace hat_open with nothing"), "hat_open") == ""
    assert len(done(context, "replace snare ghosts with accent").hits) == 5
    with pytest.raises(InputError, match="needs with VOICE"):
        do(context, "replace snare")


def test_versions_are_kept_and_come_back(context: EditContext) -> None:
    kept = done(context, "keep first try", "velocity 20 on kick", "keep softer")
    assert [s.name for s in kept.document.snapshots] == ["first try", "softer"]
    back = done(kept, "back-to First Try")
    assert back.document.groove.pattern == context.document.groove.pattern and len(back.document.snapshots) == 2
    assert [s.name for s in done(kept, "drop softer").document.snapshots] == ["first try"]
    for phrase, says in (
        ("back-to gone", "first try, softer"),
        ("keep", "needs a name"),
        ("keep " + "x" * 80, "at most"),
    ):
        with pytest.raises(InputError, match=says):
            do(kept, phrase)


def test_balance_goes_round(context: EditContext) -> None:
    seen = []
    for _ in range(6):
        words, context = do(context, "balance next")
        seen.append(words)
    assert len(set(seen)) == 6 and context.document.groove.feel.balance_db == {}


@pytest.mark.parametrize("name", sorted(all_verbs()))
def test_every_verb_refuses_nonsense_in_words(context: EditContext, name: str) -> None:
    """Wrong words never change anything, and the complaint is a sentence."""
    for rest in ("zzz", "-1/7 of it", "999999"):
        try:
            words, _ = do(context, f"{name} {rest}")
        except InputError as error:
            assert str(error).endswith((".", "?")) and len(str(error)) > 12
        else:
            assert words


def test_rows_of_the_table_are_phrases(context: EditContext) -> None:
    chosen = done(context, "select snare ghosts")
    for row in [c for c in COMMANDS.values() if c.phrase]:
        assert row.phrase.split()[0] in all_verbs(), row.name
    assert do_named(chosen, "hit.louder")[1].hits[0].velocity == 36
