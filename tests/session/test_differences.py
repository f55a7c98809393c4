"""Differences of grooves: lossless, and in words."""

from dataclasses import replace

import pytest
from hypothesis import given, settings
from tests.strategies import grooves

from ghoststep.cli.main import main
from ghoststep.files.textgrid import parse_grid
from ghoststep.music.feel import Swing
from ghoststep.music.groove import Groove
from ghoststep.session.document.differences import difference, words
from ghoststep.session.document.document import Document
from ghoststep.session.language.doing import do
from ghoststep.session.language.edit_context import EditContext

HEAD = "tempo 96\nmeter 4/4\nhat_closed x-x-x-x-x-x-x-x- | x-x-x-x-x-x-x-x-\n"
ONE = HEAD + "snare ----X-------X--- | ----X-------X---\nkick X---x---X------- | X-------X---x---"
TWO = HEAD + "snare ----X--o-o--X--- | ----X-------X---\nkick X-----x-X------- | X-------X-------"


def in_one_order(groove: Groove) -> Groove:
    """Two strokes on one spot that differ in nothing one hears have no order: here they get one."""
    hits = sorted(groove.pattern.hits, key=lambda h: (h.sort_key, repr(h)))
    return groove.changed(pattern=groove.pattern.in_order(tuple(hits)))


@given(grooves, grooves)
@settings(max_examples=50, deadline=None)
def test_a_difference_laid_over_the_first_gives_the_second(first: Groove, second: Groove) -> None:
    assert in_one_order(difference(first, second).applied(first)) == in_one_order(second)
    assert all(line.endswith(".") for line in words(first, second))


@given(grooves)
@settings(max_examples=30, deadline=None)
def test_nothing_is_different_from_itself(groove: Groove) -> None:
    assert words(groove, groove) == ["No difference."] and not difference(groove, groove).changes


def test_it_is_said_as_a_drummer_would() -> None:
    assert words(parse_grid(ONE), parse_grid(TWO)) == [
        "Bar 1: kick on 2 moves to 2&; two ghosts added (2a, 3e).",
        "Bar 2: kick on 4 gone.",
    ]


def test_touch_voice_and_the_whole_are_named() -> None:
    one = parse_grid(ONE)
    hits = list(one.pattern.hits)
    first = next(i for i, h in enumerate(hits) if h.voice == "hat_closed")
    hits[first] = replace(hits[first], voice="hat_open", velocity=99, offset_ms=4.0)
    other = one.changed(hits=tuple(hits), feel=replace(one.feel, swing=Swing(16, 0.57), lean_ms={"snare": 8.0}))
    said = words(one, other)
    assert said[:2] == ["Swing: straight becomes 57.0 % of 16ths.", "Lean of snare: +0.0 becomes +8.0 ms."]
    assert said[-1] == "Bar 1: hat closed on 1 becomes hat open, 72 → 99, 4.0 ms later."


def test_show_prints_it(tmp_path, capsys: pytest.CaptureFixture[str]) -> None:
    for name, text in (("a", ONE), ("b", TWO)):
        (tmp_path / f"{name}.grid.txt").write_text(text)
    assert main(["show", str(tmp_path / "a.grid.txt"), "--diff", str(tmp_path / "b.grid.txt")]) == 0
    assert "two ghosts added" in capsys.readouterr().out
    assert main(["show", str(tmp_path / "a.grid.txt"), "--diff", str(tmp_path / "gone.mid")]) == 2


def test_strokes_ornaments_and_settings_are_told() -> None:
    first = parse_grid("tempo 96\nsnare ----X--o-o--X--o\nhat_open x---x-----------")
    context = EditContext(Document("x", first))
    phrases = "ornament flam on snare at 2; stroke rim on snare at 4; length 1/8 on hat_open at 1; level ghost 20"
    for phrase in f"{phrases}; balance snare-led; grid 32 bars 1".split(";"):
        _, context = do(context, phrase)
    told = " ".join(words(first, context.document.groove))
    parts = "gets a flam; is played rim shot; lasts 1/8; 32 → 20; Balance: as played becomes; grid is another"
    for part in parts.split("; "):
        assert part in told, part
    back = " ".join(words(context.document.groove, first))
    assert "loses its flam" in back and "rings on" in back and "is played plain" in back


def test_a_change_of_voice_is_one_line_and_bars_that_share_a_change_are_named_together() -> None:
    rows = "hat_closed {0} | {0} | {0}\nkick {1} | {1} | {1}\n".format("X-x-X-x-X-x-X-x-", "X-------X-------")
    first = parse_grid(rows)
    ride = parse_grid(rows.replace("hat_closed", "ride"))
    assert words(first, ride) == ["Hat closed becomes ride (24 strokes)."]
    kicks = parse_grid(rows.replace("X-------X-------", "X---------------"))
    assert words(first, kicks) == ["Bars 1-3: kick on 3 gone."]
    assert difference(first, ride).applied(first) == ride
