"""Sentences understood: nothing is done unasked, what is not understood is marked, and nothing ever raises."""

import random
from dataclasses import replace

import pytest
from tests.say.corpus import context_of

from ghoststep.music.errors import InputError
from ghoststep.session.language.doing import do
from ghoststep.session.language.edit_context import EditContext
from ghoststep.session.say.completing import completed
from ghoststep.session.say.degrees import Degrees
from ghoststep.session.say.lexicon import known_words, lexicon
from ghoststep.session.say.places import LAST, InBars, Nth, Spot, Spots, Stretch
from ghoststep.session.say.reading_places import Words, bars_at, nth_at, spots_at, stretch_at
from ghoststep.session.say.tokens import tokens_of
from ghoststep.session.say.topics import TOPICS, in_turn, suggestions
from ghoststep.session.say.understanding import understood


@pytest.fixture
def beat() -> EditContext:
    return context_of("beat")


def words(text: str) -> Words:
    return Words(tokens_of(text, known_words()))


@pytest.mark.parametrize(
    ("text", "spots"),
    [
        ("4&", {"beat 4 1/2"}), ("the and of 4", {"beat 4 1/2"}), ("four and", {"beat 4 1/2"}),
        ("the a of two", {"beat 2 3/4"}), ("2a", {"beat 2 3/4"}), ("beat 3", {"beat 3 0"}), ("the one", {"beat 1 0"}),
        ("1, 2& and 4", {"beat 1 0", "beat 2 1/2", "beat 4 0"}), ("the last beat", {"beat -1 0"}),
        ("every and", {"every 0 1/2"}), ("all the e's", {"every 0 1/4"}), ("the offbeats", {"every 0 1/2"}),
        ("the backbeats", {"backbeats 0 0"}), ("the last triplet of 3", {"beat 3 2/3"}),
        ("the let of 2", {"beat 2 2/3"}),
        ("every eighth", {"note 8 0"}), ("the second beat", {"beat 2 0"}),
        ("e of 2 and 3", {"beat 2 1/4", "beat 3 1/4"}),
    ],
)  # fmt: skip
def test_counts_in_every_way_they_are_spoken(text: str, spots: set[str]) -> None:
    found = spots_at(words(text), 0)
    assert found is not None and found[1] == len(words(text).tokens)
    assert isinstance(found[0], Spots)
    assert {f"{s.kind} {s.number} {s.share}" for s in found[0].all} == spots


@pytest.mark.parametrize(
    ("text", "numbers"),
    [
        ("bars 2 to 4", {2, 3, 4}), ("bar 1 and bar 3", {1, 3}), ("the last two bars", {3, 4}), ("even bars", {2, 4}),
        ("every second bar", {1, 3}), ("the third bar", {3}), ("bars 1-2 and 4", {1, 2, 4}), ("this bar", {2}),
        ("all bars", {1, 2, 3, 4}),
    ],
)  # fmt: skip
def test_bars_by_number_and_by_place(text: str, numbers: set[int]) -> None:
    found = bars_at(words(text), 0)
    assert found is not None and isinstance(found[0], InBars)
    assert found[0].among(4, 2) == numbers


def test_parts_of_bars_and_the_nth_of_something(beat: EditContext) -> None:
    meter = beat.document.groove.pattern.meter
    half = stretch_at(words("the second half of bar 2"), 0)
    assert half is not None and isinstance(half[0], Stretch) and half[0].ticks(meter) == (40320, 80640)
    last = stretch_at(words("the last two beats"), 0)
    assert last is not None and isinstance(last[0], Stretch) and last[0].ticks(meter)[0] == 40320
    for text, chosen in (
        ("the last two", [8, 9]),
        ("every other", [2, 4, 6, 8]),
        ("the third", [3]),
        ("every third", [3, 6, 9]),
    ):
        nth = nth_at(words(text), 0)
        assert nth is not None and isinstance(nth[0], Nth) and nth[0].of(range(1, 10)) == chosen
    assert Spot("beat", LAST).ticks(meter) == {60480} and not Spot("beat", 5).ticks(meter)


def test_small_misspellings_are_mended_and_others_marked(beat: EditContext) -> None:
    assert understood(beat, "ghst befor the bakbeat").sure
    found = understood(beat, "put a trombone on 3")
    assert not found.tried and found.span is not None
    assert found.text[slice(*found.span)] == "trombone" and "trombone" in found.trouble


def test_near_readings_are_asked_about_and_the_likeliest_stands_first(beat: EditContext) -> None:
    found = understood(beat, "double it")
    assert not found.sure and [t.phrase for t in found.tried] == ["repeat 2", "tempo 208"]
    assert found.tried[0].context.document.groove.pattern.bars == 8


def test_what_is_offered_was_tried_and_does_something(beat: EditContext) -> None:
    for text in in_turn():
        for tried in understood(beat, text).tried:
            changed = tried.context.document != beat.document
            assert changed or tried.context.asks or tried.phrase.startswith(("describe", "check")), text
    assert beat.document == context_of("beat").document


def test_the_choice_is_meant_where_nothing_is_named(beat: EditContext) -> None:
    kick = [h for h in beat.document.groove.pattern.hits if h.voice == "kick"][:2]
    chosen = beat.choosing(kick)
    for text, phrase in (
        ("louder", "velocity +8"),
        ("a bit later", "nudge +6 ms"),
        ("remove it", "remove"),
        ("make it a ghost", "role ghost"),
    ):
        found = understood(chosen, text)
        assert found.sure and found.tried[0].phrase == phrase, text
    assert understood(replace(beat, cursor_ticks=80640), "clear this bar").tried[0].phrase.endswith("bars 2")


def test_exact_phrases_go_through_as_they_are(beat: EditContext) -> None:
    found = understood(beat, "velocity +4 on snare ghosts; tempo 96")
    assert found.exact and found.sure and found.tried[0].reading.phrases == ("velocity +4 on snare ghosts", "tempo 96")


@pytest.mark.parametrize(
    "text",
    [
        "", "   ", "?!", "snare " * 2000, "\x00\x07kick", "бочка на три", "スネア", "kick on 999999999999", "tempo -3",
        "only hats without hats", "bar 0 like bar 1", "swap bars 1 and 1", "kick on beat 0", "e", "the the the", "1/0",
        "velocity", "loop bar 1 99999 times", "meter 0/4", "3/7", "a of a of a", "and and and", "no no no",
        "snare on 2 but snare on 4",
    ],
)  # fmt: skip
def test_bad_input_is_told_in_a_sentence_and_loses_nothing(beat: EditContext, text: str) -> None:
    before = beat.document
    found = understood(beat, text)
    if not found.sure:
        assert found.trouble or found.tried
        assert len(found.trouble) < 400
    assert beat.document is before


def test_random_words_never_raise() -> None:
    dice = random.Random(5)
    pool = (
        [" ".join(row) for row in lexicon()]
        + [str(n) for n in range(1, 20)]
        + ["bar", "beat", "4&", "ms", "%", ",", "of"]
    )
    contexts = [context_of(g) for g in ("beat", "waltz", "blank")]
    for _ in range(250):
        text = " ".join(dice.choice(pool) for _ in range(dice.randint(1, 9)))
        found = understood(dice.choice(contexts), text)
        assert found.tried or found.trouble, text


def test_degrees_are_a_table_that_can_be_changed(beat: EditContext) -> None:
    own = Degrees.parse("# ours\nvelocity 1 2 3 4\n")
    assert understood(beat, "snare a bit louder", degrees=own).tried[0].phrase == "velocity +2 on snare"
    assert Degrees.parse(Degrees.text()).of("velocity", "lot") == Degrees().of("velocity", "lot") == 20
    for text, trouble in (
        ("velocity 1 2 3", "Line 1"),
        ("volume 1 2 3 4", "no kind of change"),
        ("velocity 4 3 2 1", "that grow"),
    ):
        with pytest.raises(InputError, match=trouble):
            Degrees.parse(text)


def test_suggestions_fit_the_groove() -> None:
    for name in ("beat", "blank", "waltz"):
        context = context_of(name)
        for text in suggestions(context):
            assert understood(context, text).sure
    assert suggestions(context_of("beat"), begins="snare")[0].startswith("snare")
    assert all(TOPICS.values())


def test_words_are_completed() -> None:
    assert completed("ghost before the backb") == "ghost before the backbeat "
    assert completed("x") == "x" and completed("put a zzz") == "put a zzz"


def test_parts_and_sections_are_named_and_the_chosen_part_is_meant() -> None:
    beat = context_of("beat")
    for phrase in (
        "part A bars 1",
        "part B bars 2",
        "section verse = A B",
        "section chorus = A x2",
        "form verse chorus",
    ):
        _, beat = do(beat, phrase)
    assert beat.document.form is not None and beat.document.groove.pattern.bars == 4
    assert understood(beat, "kick on 3 in part B").tried[0].phrase == "place kick 3 bars 2"
    assert understood(beat, "crash on 1 in the chorus").tried[0].phrase == "place crash 1 bars 3-4"
    assert understood(beat, "kick on 3", within=frozenset({2})).tried[0].phrase == "place kick 3 bars 2"
    after = understood(beat, "crash on 1 in part A").tried[0].context.document.groove.pattern
    assert [h.position_ticks // 80640 + 1 for h in after.hits if h.voice == "crash"] == [1, 3, 4]


def test_a_degree_counts_from_what_is_there_and_a_number_from_the_grid(beat: EditContext) -> None:
    late = understood(beat, "snare 12 ms late").tried[0].context
    assert understood(late, "the snare a bit later").tried[0].phrase == "lean snare 18"
    assert understood(late, "snare 5 ms late").tried[0].phrase == "lean snare 5"
    assert "later than now" in understood(late, "lay the snare back").tried[0].reading.about
