"""Question and answer over two, four and eight bars, and fills made to measure."""

import random

import pytest
from bench.parts import playable

from ghoststep.files.textgrid import parse_grid, parse_text
from ghoststep.judge.check import Terms, impossible
from ghoststep.music.errors import InputError
from ghoststep.session.document.document import Document
from ghoststep.session.edits.commit import opened
from ghoststep.session.language.doing import do
from ghoststep.session.language.edit_context import EditContext
from ghoststep.session.language.filling import fill_offers
from ghoststep.session.language.forms.answering import STRICTNESS, phrases

ONE = "tempo 100\nhat_closed x-x-x-x-x-x-x-x-\nsnare ----X--o----X---\nkick X-----x---x-----\n"
SONG = ONE.replace("hat_closed", "part A\nhat_closed")


def context(text: str = SONG) -> EditContext:
    form, groove = parse_text(text)
    return EditContext(opened(Document("song", groove, form=form)))


@pytest.mark.parametrize(("length", "row"), [(2, (0, 1)), (4, (0, 1, 0, 2)), (8, (0, 1, 0, 2, 0, 1, 0, 3))])
def test_phrases_ask_and_answer_and_the_first_keeps_the_loop(length: int, row: tuple[int, ...]) -> None:
    groove = parse_grid(ONE)
    found = phrases(groove, Terms(), length)
    assert found[0].row == (0,) * length and not found[0].answers
    assert len(found) >= 4
    for phrase in found[1:]:
        assert phrase.row == row and len(phrase.answers) == max(row)
        apart = [a.apart for a in phrase.answers]
        assert apart == sorted(apart) and len({a.pattern for a in phrase.answers}) == max(row)
        assert all(impossible(groove.changed(pattern=a.pattern), Terms()) == 0 for a in phrase.answers)


def test_strictness_bounds_every_answer_of_a_phrase() -> None:
    low, high = STRICTNESS["near"]
    for phrase in phrases(parse_grid(ONE), Terms(), 4, strictness="near"):
        assert all(low <= a.apart <= high for a in phrase.answers)
    with pytest.raises(InputError, match="2, 4, 8 bars, not 3"):
        phrases(parse_grid(ONE), Terms(), 3)


def test_a_phrase_takes_the_place_of_a_playing() -> None:
    words, after = do(context(), "phrase 4 of A by near choice 2")
    form = after.document.form
    assert form.section("all").row == ("A", "B", "A", "C") and words.startswith("A B A C: ")
    assert form.part("B").base == form.part("C").base == "A"
    _, twice = do(after, "phrase 2 of A in all place 3")
    assert twice.document.form.section("all").row == ("A", "B", "A", "D", "C")
    for phrase, said in (
        ("phrase 4 of Q", "no part 'Q'"),
        ("phrase 3 of A", "no length"),
        ("phrase 4 of A choice 12", "There are only"),
        ("phrase 2 of B in no", "no section 'no'"),
    ):
        with pytest.raises(InputError, match=said):
            do(after, phrase)


def test_fills_are_made_to_measure_differ_and_can_be_played() -> None:
    groove = parse_grid("tempo 100\n" + "\n".join(f"{row} | {row.split()[1]}" for row in ONE.splitlines()[1:]))
    for beats, grid in ((1, 16), (2, 16), (4, 24), (8, 16), (2, 12)):
        found = fill_offers(groove, 2, beats, grid, Terms())
        assert 4 <= len(found) <= 8
        assert len({f.phrase for f in found}) == len(found) and len({f.about for f in found}) == len(found)
        assert len({f.phrase.split(" over ")[1].split(" move")[0] for f in found}) > 1  # over several paths
        assert all(impossible(f.groove, Terms()) == 0 for f in found)
        start = groove.pattern.length_ticks - beats * 20_160
        before = [h for h in groove.pattern.hits if h.position_ticks < start]
        for fill in found:  # what was before the fill stays
            assert [h for h in fill.groove.pattern.hits if h.position_ticks < start] == before
    with pytest.raises(InputError, match="No fill of this length"):
        fill_offers(parse_grid("tempo 390\nkick x---------------\n"), 1, 4, 48, Terms())


def test_a_fill_begins_at_a_spot_lands_later_and_closes_the_hat() -> None:
    text = "tempo 100\nhat_closed x-x-x-x-x---x-x- | x-x-x-x-x-x-x-x-\nhat_open ----------x----- | ----------------\n"
    at = EditContext(opened(Document("two", parse_grid(text))))
    _, done = do(at, "fill-in 1 in 1 from 4e cell RL over snare landing 2&")
    hits = done.document.groove.pattern.hits
    assert [h.position_ticks // 5040 for h in hits if h.voice == "snare"] == [13, 14, 15]
    assert [h.position_ticks // 5040 for h in hits if h.voice == "crash"] == [16 + 6]
    assert [h for h in hits if h.voice == "hat_pedal"] == []  # a closed stroke came in between
    _, open_ = do(at, "fill-in 2 in 1 from 3a cell RL over snare")
    assert [h.position_ticks // 5040 for h in open_.document.groove.pattern.hits if h.voice == "hat_pedal"] == [11]
    _, under = do(at, "fill-in 1 in 1 cell RL over crash")
    kicks = [h.position_ticks // 5040 for h in under.document.groove.pattern.hits if h.voice == "kick"]
    assert kicks == [12, 13, 14, 15, 16]
    _, linear = do(at, "fill-in 1 in 1 cell RK over crash landing nothing")
    kicks = [h.position_ticks // 5040 for h in linear.document.groove.pattern.hits if h.voice == "kick"]
    assert kicks == [13, 15]
    with pytest.raises(InputError, match="names no spot"):
        do(at, "fill-in 1 in 1 from nowhere")


def test_a_fill_as_an_exception_reaches_over_its_bar_lines() -> None:
    two = context(SONG + "section s = A x4\n")
    _, done = do(two, "but s bars 3 by fill-in 6 cell RLLK")
    hits = done.document.groove.pattern.hits
    toms = sorted({h.position_ticks // 80_640 + 1 for h in hits if h.voice.startswith("tom")})
    assert toms == [2, 3] and [h.position_ticks // 5040 for h in hits if h.voice == "crash"] == [48]
    assert [h.position_ticks // 5040 for h in hits if h.voice == "snare" and 24 <= h.position_ticks // 5040 < 32] == [
        24, 25, 26,
    ]  # fmt: skip
    assert do(done, "but s bars 4 by fill-in 1")[1].document.groove.pattern.bars == 4
    with pytest.raises(InputError, match="does not fit"):
        do(two, "but s bars 3 by remove tom_low at 3")


def test_random_grooves_get_phrases_that_can_be_played() -> None:
    rng = random.Random(8)
    for _ in range(4):
        groove = playable(rng, bars=1)
        hard = impossible(groove, Terms())
        for phrase in phrases(groove, Terms(), 4)[1:]:
            assert all(impossible(groove.changed(pattern=a.pattern), Terms()) <= hard for a in phrase.answers)


def test_a_fill_lands_behind_its_end_and_not_before_the_bar_it_ends_in() -> None:
    one = EditContext(opened(Document("one", parse_grid(ONE))))
    with pytest.raises(InputError, match="lands behind its end"):
        do(one, "fill-in 1 cell RL landing 4e")
    four = context(SONG + "section s = A x4\n")
    _, done = do(four, "but s bars 4 by fill-in 2 cell RL over snare")
    assert all(h.voice != "crash" for h in done.document.groove.pattern.hits)  # nothing comes behind the song
