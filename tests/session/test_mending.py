"""Mends that help and bring no worse, parts made playable, and what the check is told."""

import random
from dataclasses import replace

import pytest

from ghoststep.files.textgrid import parse_grid
from ghoststep.judge.check import Terms, checked, impossible
from ghoststep.judge.kit_setup import DOUBLE_PEDAL
from ghoststep.judge.players import PLAYERS
from ghoststep.music.errors import InputError
from ghoststep.music.groove import Groove
from ghoststep.session.document.document import Document
from ghoststep.session.document.judged import Judged
from ghoststep.session.language import mending
from ghoststep.session.language.doing import call, do
from ghoststep.session.language.edit_context import EditContext
from ghoststep.session.language.mending import made_playable, mended, mends_of, ranks, same
from ghoststep.session.say.telling import told

OVERLOADED = """tempo 150
hat_closed x-x-x-x-x-x-x-x- | xxxxxxxxxxxxxxxx | x-x-x-x-x-x-x-x-
hat_pedal ------x--------- | ---------------- | ----------------
hat_open ------x--------- | ---------------- | ----------------
crash X--------------- | X--------------- | ----------------
snare X---X--o-o--X--o | ----X-------X--- | ----X--o-o--X--o
kick x-xxxxxxxx------ | x---x---x---x--- | xxxxxxxxxxxxxxxx
"""


def context(text: str = OVERLOADED) -> EditContext:
    return EditContext(Document("x", parse_grid(text)))


FIVE = ("crash", "hat_closed", "tom_low", "snare", "hat_open")


def test_a_mend_takes_its_finding_away_and_adds_no_worse_one() -> None:
    here, terms = context(), Terms()
    findings = checked(here.document.groove, terms).findings
    before = ranks(findings)
    mended_ones = 0
    for finding in findings:
        for phrase in mends_of(here, finding, terms):
            changed = mended(here, phrase).document
            after = checked(changed.groove, changed.judged.terms).findings
            assert not any(same(f, finding) for f in after), (finding.name, phrase)
            assert all(ranks(after).get(r, 0) <= before.get(r, 0) for r in range(finding.rank)), (finding.name, phrase)
            mended_ones += 1
        if finding.kind == "impossible":
            assert mends_of(here, finding, terms), finding
    assert mended_ones > 12


def test_what_does_not_help_is_not_offered() -> None:
    here = context()
    finding = next(f for f in checked(here.document.groove).findings if f.name == "three hands")
    useless = replace(finding, mends=("velocity 60 on kick", "remove snare at 9 bars 1", "stroke rim on snare"))
    assert mends_of(here, useless, Terms()) == []


def test_a_part_is_made_playable_and_keeps_its_tempo() -> None:
    for bpm in (None, 172.0):
        taken, after = made_playable(context(), Terms(), bpm)
        assert taken and after.document.groove.tempo.main_bpm == 150
        at = after.document.groove
        if bpm:
            at = at.changed(tempo=replace(at.tempo, bpm=(bpm,), to_bpm=(bpm,)))
        assert not [f for f in checked(at).findings if f.kind == "impossible"]
        assert len(at.pattern.hits) > 0.6 * len(parse_grid(OVERLOADED).pattern.hits)
    assert made_playable(context("kick x---x---x---x---"), Terms())[0] == []


def test_hands_are_changed_before_strokes_are_left_out() -> None:
    groove = parse_grid("tempo 120\nsnare xxxxxxxxxxxxxxxx")
    given = groove.changed(hits=tuple(replace(h, limb="R") for h in groove.pattern.hits))
    faster = given.changed(tempo=replace(given.tempo, bpm=(170.0,), to_bpm=(170.0,)))
    taken, after = made_playable(EditContext(Document("x", faster)), Terms())
    assert taken[0].startswith("limb L") and len(after.document.groove.pattern.hits) == 16


def test_verbs_tell_the_check_and_are_undone_with_the_document() -> None:
    words, after = do(context(), "player learner")
    assert after.document.judged.player == "learner" and "learner" in words
    _, after = do(after, "handed left-handed")
    _, after = do(after, "pedals 2")
    _, after = do(after, "may-be loop on")
    judged = after.document.judged
    assert judged.terms == Terms(PLAYERS["learner"], "left-handed", DOUBLE_PEDAL, frozenset({"loop"}))
    assert do(after, "may-be loop off")[1].document.judged.styles == ()
    assert "already" in do(after, "player learner")[0]
    for bad in ("player robot", "pedals 3", "handed upwards", "may-be jazz", "meant nothing at all"):
        with pytest.raises(InputError):
            do(after, bad)


def test_a_finding_that_is_meant_so_stays_quiet_through_other_edits() -> None:
    here = context()
    finding = next(f for f in checked(here.document.groove).findings if f.name == "three hands")
    _, after = call(here, "meant", key=finding.key)
    _, after = do(after, "velocity +4 on snare")
    judged = after.document.judged
    left = checked(after.document.groove, judged.terms, judged.meant).findings
    assert (
        finding.key not in {f.key for f in left} and any(f.name == "three hands" and f.bar == 2 for f in left) is False
    )
    _, heard = do(after, "mind")
    assert heard.document.judged.meant == ()


def test_bad_settings_say_what_there_is() -> None:
    for wrong in ({"player": "x"}, {"way": "x"}, {"setup": "x"}, {"styles": ("x",)}):
        with pytest.raises(InputError, match="There are:"):
            Judged(**wrong)


def test_verbs_of_the_sticking() -> None:
    here = context("tempo 100\nsnare XxxxXxxxXxxxXxxx")
    assert "starting left" in do(here, "sticking start left")[0]
    words, after = do(here, "sticking choice 2")
    assert "as rudiments" in words
    assert do(after, "names")[0].startswith("as one line: paradiddle, 2 times: bar 1 at 1; each half: ")
    assert do(after, "sticking keep")[0].startswith("Already played")
    assert do(after, "playable")[0] == "Playable as it is"
    assert "Snare accents on every beat." in told(here.document.groove)
    with pytest.raises(InputError):
        do(here, "sticking choice 7")


def test_random_parts_made_playable_are() -> None:
    rng = random.Random(9)
    for _ in range(4):
        rows = {
            v: "".join(rng.choice("xx-") for _ in range(16))
            for v in ("hat_closed", "snare", "kick", "tom_low", "crash")
        }
        text = f"tempo {rng.choice([110, 140, 170])}\n" + "\n".join(f"{v} {r}" for v, r in rows.items())
        _, after = made_playable(context(text), Terms())
        assert not [f for f in checked(after.document.groove).findings if f.kind == "impossible"]


def test_where_no_mend_helps_the_softest_strokes_are_left_out_one_by_one() -> None:
    rows = [f"{v} {c}---------------" for v, c in zip(FIVE, "XxxXx", strict=True)]
    taken, after = made_playable(context("\n".join(["tempo 100", *rows])), Terms())
    assert impossible(after.document.groove, Terms()) == 0
    assert [h.voice for h in after.document.groove.pattern.hits] == ["crash", "snare"] and len(taken) == 3


def test_what_needs_more_changes_than_are_tried_is_not_called_playable(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(mending, "_MOST_STEPS", 2)
    with pytest.raises(InputError, match="More than 2 changes"):
        made_playable(
            context("tempo 120\ncrash X---X---X---X---\nsnare X---X---X---X---\ntom_low X---X---X---X---"), Terms()
        )


def test_nothing_is_nothing_to_mend() -> None:
    assert made_playable(EditContext(Document("x", Groove())), Terms())[0] == []


def test_a_second_pedal_mends_what_one_foot_cannot() -> None:
    here = context("tempo 150\nkick xxxxxxxxxxxxxxxx")
    finding = checked(here.document.groove).findings[0]
    assert "pedals 2" in mends_of(here, finding, Terms())
    assert mended(here, "pedals 2").document.judged.setup == DOUBLE_PEDAL.name


def test_a_part_kept_linear_says_where_it_is_not() -> None:
    here = do(context("snare ----x-------x---\nkick x---x---x-------"), "linear on")[1]
    found = [f for f in checked(here.document.groove).findings if f.name == "not linear"]
    assert [f.spot for f in found] == ["2"] and mends_of(here, found[0], Terms())
