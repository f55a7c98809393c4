"""Names in layers: each beat, half and bar, over a foot, across the loop's end, ornaments; what is cut short."""

import pytest

from ghoststep.files.textgrid import parse_grid
from ghoststep.judge.layers import Layer, hits_of, layers, row_words
from ghoststep.judge.stretches import stretches
from ghoststep.music.errors import InputError
from ghoststep.music.groove import Groove
from ghoststep.session.document.document import Document
from ghoststep.session.language.doing import do
from ghoststep.session.language.edit_context import EditContext

SIXTEENTH, BAR = 5040, 80640


def played(letters: str, more: str = "") -> Groove:
    """A groove of sixteenths from letters of limbs, hands on the snare, feet on kick and hat."""
    bars = [letters[k : k + 16] for k in range(0, len(letters), 16)]

    def lane(name: str, wanted: str) -> str:
        return f"{name} {' | '.join(''.join('x' if c in wanted else '-' for c in bar) for bar in bars)}"

    groove = parse_grid(f"tempo 100\n{lane('snare', 'RL')}\n{lane('kick', 'K')}\n{more}")
    hands = "".join(c for c in letters if c in "RL")
    return do(EditContext(Document("x", groove)), f"hands {hands} on snare")[1].document.groove


def told(groove: Groove) -> list[str]:
    return [row_words(x, groove.pattern) for x in layers(groove)]


@pytest.mark.parametrize(
    ("letters", "words"),
    [
        ("RLKKRLKKRLKKRLKK", "each beat: R L K K (paradiddle), 4 times: bar 1 at 1, 2, 3, 4"),
        ("KRLKRLKKKRLKRLKK", "each half: K R L K R L K K, 2 times: bar 1 at 1, 3"),
        ("RLRRLRLLRLRRLRLL", "each half: R L R R L R L L (paradiddle), 2 times: bar 1 at 1, 3"),
        ("RLKRLKRLKRLKRLKR", "R L K five times (cut short after R by the loop's end): bar 1 at 1"),
        ("RLKRLKRLKRLKRLKR", "each bar: groups of 3 3 3 3 4: bar 1 at 1"),
        ("RLRRLRLRRLRLRRLR" * 2, "R L R R L three times (cut short after R by the bar line): bar 1 at 1"),
        ("RLRRLRLL" * 2 + "RRLLRRLLRRLLRRL-", "paradiddle, 2 times: bar 1 at 1"),
    ],
)
def test_each_layer_says_what_where_and_how_often(letters: str, words: str) -> None:
    assert words in told(played(letters))


def test_a_smaller_figure_is_told_instead_of_two_of_it() -> None:
    found = told(played("RLKKRLKKRLKKRLKK"))
    assert not [x for x in found if x.startswith(("each half", "each bar"))]


def test_a_rudiment_that_is_not_ended_is_told_as_cut_short_only_where_no_other_name_begins() -> None:
    assert not [x for x in told(played("RLRLLRLRRLRLLRLR")) if "cut short" in x]
    assert "paradiddle, 3 times (cut short after R L R by the loop's end): bar 1 at 1" in told(
        played("RLRRRLRRRLRRRLR-")
    )


def test_hands_are_named_over_a_foot_that_goes_on_by_itself() -> None:
    groove = played("RLKRLKRLKRLKRLK-", "hat_pedal x---x---x---x---\n")
    assert not [x for x in layers(groove) if x.layer == "as one line" and x.words.startswith("R L K")]
    over = [x for x in layers(groove) if x.layer == "over the feet"]
    assert [x.words for x in over] == ["R L K five times over the left foot on every beat"]
    # A foot that is part of the hands' own line is none that goes on below it.
    assert not [x for x in layers(played("RLKKRLKKRLKKRLKK")) if x.layer == "over the feet"]


def test_what_crosses_the_loops_end_is_told_and_chosen_at_both_ends() -> None:
    groove = played("RLL-R-L-K-K-K-RL" + "RR-L-R-K---K-RLR"[:16])
    crossing = [x for x in layers(played("RR-K-K-K-K-K-KRL")) if x.layer == "across the loop's end"]
    assert [(x.words, x.places[0]) for x in crossing] == [("paradiddle", (14 * SIXTEENTH, SIXTEENTH))]
    pattern = played("RR-K-K-K-K-K-KRL").pattern
    chosen = {pattern.hits[i].position_ticks // SIXTEENTH for i in hits_of(crossing[0], pattern)}
    assert chosen == {14, 15, 0, 1}
    assert groove.pattern.bars == 2


def test_ornaments_are_told_by_voice_and_place() -> None:
    groove = parse_grid("tempo 100\nsnare ----X-------X--- | ----X-------X---\n")
    context = do(EditContext(Document("x", groove)), "ornament flam on snare at 2")[1]
    context = do(context, "ornament drag on snare at 4 bars 2")[1]
    assert told(context.document.groove) == [
        "ornaments: flam on the snare, 2 times: bars 1-2 at 2",
        "ornaments: drag on the snare: bar 2 at 4",
    ]


def test_an_unnamed_figure_of_bars_that_are_all_alike_is_not_told_beat_by_beat() -> None:
    letters = "R-LK-RLL-KRL-R-L"
    assert not [x for x in layers(played(letters * 2)) if x.layer in ("each half", "each beat")]


def test_names_of_a_target_are_those_of_its_stretches() -> None:
    context = EditContext(Document("x", played("RLKKRLRRKKRLRLLR" * 2)))
    assert do(context, "names beat 2")[0] == "R L R R (paradiddle), 2 times: bars 1-2 at 2"
    assert do(context, "names on snare bars 2")[0] == "R L R L R R R L R L L R, in it paradiddle: bar 2 at 1"
    whole, after = do(context, "names")
    assert whole.startswith("as one line: ") and "each beat: " in whole and after == context
    for phrase, words in (
        ("names toms", "No hit is 'toms'"),
        ("names on snare at 9", "9"),
        ("names foo", "says nothing"),
    ):
        with pytest.raises(InputError, match=words):
            do(context, phrase)


def test_a_stretch_is_cut_where_others_strike_for_a_beat() -> None:
    groove = played("RLRRKKKKRLRRKKKK")
    hits = groove.pattern.hits
    rows = stretches(groove, [i for i, h in enumerate(hits) if h.voice == "snare"])
    assert rows == [
        Layer("chosen", "R L R R (paradiddle)", ((0, 3 * SIXTEENTH), (BAR // 2, BAR // 2 + 3 * SIXTEENTH)), 2)
    ]
