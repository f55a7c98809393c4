"""Answers to parts, and the verbs of the form."""

import random

import pytest
from bench.parts import playable

from ghoststep.files.textgrid import parse_grid, parse_text
from ghoststep.judge.check import Terms, checked
from ghoststep.judge.relatedness import bar_of, relation
from ghoststep.music.errors import InputError
from ghoststep.music.unrolled import bars_of
from ghoststep.session.document.document import Document
from ghoststep.session.edits.commit import opened
from ghoststep.session.form.plain import without_keys
from ghoststep.session.language.doing import do
from ghoststep.session.language.edit_context import EditContext
from ghoststep.session.language.forms.answering import STRICTNESS, answers
from ghoststep.session.language.forms.variation import changes_between
from ghoststep.session.language.forms.words import changed_by

SONG = """tempo 100
part A
hat_closed x-x-x-x-x-x-x-x-
snare      ----X-------X---
kick       X-----x---x-----
part B = A
  move kick 3& to 3
section verse = A B x2 A
form = verse
"""


def context(text: str = SONG) -> EditContext:
    form, groove = parse_text(text)
    return EditContext(opened(Document("song", groove, form=form)))


def test_every_groove_has_answers_that_can_be_played_and_are_told_truly() -> None:
    rng = random.Random(17)
    for _ in range(8):
        groove = playable(rng, 4)
        bars = rng.choice([1, 2, 4])
        question = groove.changed(pattern=bars_of(without_keys(groove.pattern), 1, bars))
        found = answers(question, Terms())
        assert len(found) >= 5
        assert [a.apart for a in found] == sorted(a.apart for a in found)
        hard = sum(f.kind == "impossible" for f in checked(question).findings)
        for a in found:
            assert changed_by(question.pattern, a.phrases) == a.pattern != question.pattern
            back = changes_between(a.pattern, question.pattern)
            assert changed_by(a.pattern, back.phrases) == question.pattern
            after = checked(question.changed(pattern=a.pattern)).findings
            assert sum(f.kind == "impossible" for f in after) <= hard


def test_strictness_keeps_answers_near_or_far() -> None:
    groove = parse_grid("tempo 96\nhat_closed x-x-x-x-x-x-x-x-\nsnare ----X-------X---\nkick X-----x---x-----")
    for name, (low, high) in STRICTNESS.items():
        found = answers(groove, Terms(), strictness=name)
        assert found and all(low <= a.apart <= high for a in found)
    with pytest.raises(InputError, match="near, middle, far"):
        answers(groove, Terms(), strictness="cosy")


def test_only_the_last_bar_of_a_phrase_answers() -> None:
    groove = playable(random.Random(3), 4)
    for a in answers(groove, Terms()):
        assert bars_of(a.pattern, 1, 3).hits == bars_of(without_keys(groove.pattern), 1, 3).hits


def test_relation_is_a_figure_with_reasons() -> None:
    one = parse_grid("meter 2/4\nkick x---x---\nsnare --x---x-")
    other = parse_grid("meter 2/4\nkick x--x----\nsnare --x---x-")
    bars = [bar_of(g.pattern.hits, 0, 40320) for g in (one, other)]
    figure, reasons = relation(*bars)
    assert 0.3 < figure < 0.8 and reasons == ["kick: 1 of 3 strokes shared", "snare the same"]
    assert relation(bars[0], bars[0])[0] == 1


def test_an_answer_becomes_a_part_that_varies_the_question() -> None:
    words, after = do(context(), "answer A as C near")
    part = after.document.form.part("C")
    assert part.base == "A" and part.changes and words.startswith("Part C answers A: ")
    words, after = do(after, "section chorus = A C A C | ending A | ending C")
    assert after.document.form.order == ("verse",) and "not in the form yet: form verse chorus" in words
    _, after = do(after, "form verse chorus")
    assert after.document.form.order == ("verse", "chorus") and after.document.groove.pattern.bars == 4 + 10
    _, after = do(after, "form chorus verse x2")
    assert after.document.form.order == ("chorus", "verse", "verse")


def test_verbs_make_parts_and_free_and_rebase_them() -> None:
    _, after = do(context(), "vary A as D by remove kick at 2& then place cowbell 1")
    assert after.document.form.part("D").changes == ("remove kick at 2&", "place cowbell 1")
    _, after = do(after, "free D")
    assert after.document.form.part("D").base == "" and "already" in do(after, "free D")[0]
    words, after = do(after, "rebase D to B")
    assert after.document.form.part("D").base == "B" and "Part D is B, but" in words
    _, after = do(after, "but verse bars 2 by place hat_open 4&")
    assert after.document.form.section("verse").exceptions == ((2, "place hat_open 4&"),)
    open_ones = [h for h in after.document.groove.pattern.hits if h.voice == "hat_open"]
    assert len(open_ones) == 1
    _, after = do(do(after, "section fast = A x2 tempo 140")[1], "form verse fast")
    assert after.document.groove.tempo.bpm_at(after.document.groove.pattern.frame.start_of(5)) == 140


def test_a_plain_groove_gets_a_form_by_its_letters_or_by_hand() -> None:
    groove = "hat_closed x-x-x-x-x-x-x-x-|x-x-x-x-x-x-x-x-|x-x-x-x-x-x-x-x-|x-x-x-x-x-x-x-x-\n" \
        "kick x-------x-------|x-------x---x---|x-------x-------|x-------x---x---"  # fmt: skip
    here = EditContext(opened(Document("g", parse_grid(groove))))
    words, after = do(here, "letters")
    assert "2 parts in 1 section" in words and after.document.form.part("B").changes == ("place kick 4",)
    assert [h.position_ticks for h in after.document.groove.pattern.hits] == [
        h.position_ticks for h in here.document.groove.pattern.hits
    ]
    _, by_hand = do(here, "part A bars 1-2")
    assert by_hand.document.form.part("A").pattern.bars == 2


@pytest.mark.parametrize(
    ("phrase", "words"),
    [
        ("vary Z as D by remove kick", "no part 'Z'"),
        ("vary A as A by remove kick", "circle"),
        ("vary A as D by remove cowbell", "does not fit A"),
        ("vary A as ?? by remove kick", "no name"),
        ("answer A as A near", "cannot answer"),
        ("answer Z as C", "no part 'Z'"),
        ("section verse", "said like"),
        ("section verse = A Q", "no part 'Q'"),
        ("form bridge", "no section 'bridge'"),
        ("but bridge bars 1 by remove kick", "no section"),
        ("rebase A to B", "circle"),
        ("free Q", "no part"),
    ],
)
def test_what_cannot_be_said_of_a_form_is_refused(phrase: str, words: str) -> None:
    here = context()
    with pytest.raises(InputError) as error:
        do(here, phrase)
    assert words in str(error.value)
    with pytest.raises(InputError, match="no parts yet"):
        do(EditContext(Document("plain", parse_grid("kick x---------------"))), "free A")


def test_a_found_form_is_corrected_same_not_same_begins_here() -> None:
    here = context()
    _, same = do(here, "same B as A")
    assert [p.name for p in same.document.form.parts] == ["A"]
    assert [s.part for s in same.document.form.stretches()] == ["A"] * 4
    _, apart = do(same, "not-same 3 as C")
    assert [s.part for s in apart.document.form.stretches()] == ["A", "A", "C", "A"]
    assert apart.document.groove.pattern.hits[0].position_ticks == 0
    _, begun = do(apart, "begins 3 as chorus")
    assert begun.document.form.order == ("verse", "chorus")
    assert begun.document.form.section("chorus").row == ("C", "A")
    _, freed = do(here, "same A as B")
    assert freed.document.form.part("B").base == "" and freed.document.form.part("B").changes == ()
    for bad in (
        "same A as A",
        "same Q as A",
        "not-same 9 as D",
        "not-same 2 as A",
        "begins 1 as x",
        "begins 2 as verse",
    ):
        with pytest.raises(InputError):
            do(here, bad)


def test_of_a_section_that_comes_again_only_the_first_playing_is_parted() -> None:
    _, twice = do(context(), "form verse x2")
    _, after = do(twice, "begins 3 as mid")
    assert after.document.form.order == ("verse-1", "mid", "verse")
    told = [[(h.position_ticks, h.voice) for h in s.document.groove.pattern.hits] for s in (after, twice)]
    assert told[0] == told[1]
