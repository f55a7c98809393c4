"""Variations as phrases, edits that go to parts and all their bars, forms that follow."""

import random
from dataclasses import replace

import pytest
from bench.parts import playable

from ghoststep.feel.perform import perform
from ghoststep.files.textgrid import parse_grid, parse_text
from ghoststep.files.textgrid_song_out import song_text
from ghoststep.music.errors import InputError
from ghoststep.music.feel import Feel
from ghoststep.music.pattern import Pattern
from ghoststep.music.unrolled import bars_of
from ghoststep.session.document.document import Document
from ghoststep.session.edits.commit import opened
from ghoststep.session.form.plain import without_keys
from ghoststep.session.language.doing import do
from ghoststep.session.language.edit_context import EditContext
from ghoststep.session.language.forms.variation import changes_between
from ghoststep.session.language.forms.words import changed_by, followed, song

STEP = 5040
SONG = """tempo 100
part A
hat_closed x---x---x---x---
snare      --------X-------
kick       x---x-x---------
part B = A
  move kick 2 to 1&
part C = A
  remove kick at 2
section verse = A B C x2 B
section last = A x2 | ending C
form = verse last
"""


def context() -> EditContext:
    form, groove = parse_text(SONG)
    return EditContext(opened(Document("song", groove, form=form)))


def planted(rng: random.Random, base: Pattern, wanted: int) -> tuple[Pattern, int]:
    """A pattern with so many changes in it, none near another; how many there are."""
    pattern, touched, count = base, set(), 0
    for _ in range(200):
        free = [
            h for h in pattern.hits if all(h.voice != v or abs(h.position_ticks - t) > 4 * STEP for t, v in touched)
        ]
        if count == wanted or not free:
            break
        h = rng.choice(free)
        frame = pattern.frame
        bar = frame.spot_at(h.position_ticks).bar
        place = f"at step {frame.spot_at(h.position_ticks).tick // STEP + 1} bars {bar}"
        to = h.position_ticks + rng.choice([-2, -1, 1, 2]) * STEP
        kind = rng.choice(["remove", "role", "move", "place"])
        if kind == "move":
            if not 0 <= to < pattern.length_ticks or frame.spot_at(to).bar != bar or pattern.at(to, h.voice):
                continue
            phrase = f"move to step {frame.spot_at(to).tick // STEP + 1} on {h.voice} {place}"
            touched.add((to, h.voice))
        elif kind == "place":
            if pattern.at(h.position_ticks, "cowbell"):
                continue
            phrase = f"place cowbell step {frame.spot_at(h.position_ticks).tick // STEP + 1} bars {bar}"
            touched.add((h.position_ticks, "cowbell"))
        elif kind == "role":
            role = {"ghost": "accent", "normal": "ghost", "accent": "normal"}[h.role.value]
            phrase = f"role {role} on {h.voice} {place}"
        else:
            phrase = f"remove {h.voice} {place}"
        touched.add((h.position_ticks, h.voice))
        pattern, count = changed_by(pattern, [phrase]), count + 1
    return pattern, count


def test_so_many_planted_changes_are_named_as_so_many() -> None:
    rng = random.Random(31)
    for _ in range(120):
        base = bars_of(without_keys(playable(rng, 2).pattern), 1, rng.choice([1, 2]))
        other, count = planted(rng, base, rng.randint(1, 6))
        found = changes_between(base, other)
        assert found.exact and len(found.phrases) == count
        assert changed_by(base, found.phrases) == other


def test_there_and_back_is_lossless() -> None:
    rng = random.Random(32)
    for _ in range(20):
        one, other = (bars_of(without_keys(playable(rng, 4, 100).pattern), 1, 4) for _ in range(2))
        there, back = changes_between(one, other), changes_between(other, one)
        assert there.exact and back.exact
        assert changed_by(changed_by(one, there.phrases), back.phrases) == one
        assert changes_between(one, one).phrases == ()


def test_orchestration_and_shift_are_told_as_one_change() -> None:
    base = without_keys(parse_grid("hat_closed x-x-x-x-x-x-x-x-\nkick x-----x---------").pattern)
    on_the_tom = changed_by(base, ["voice tom_low on hat_closed"])
    assert changes_between(base, on_the_tom).phrases == ("voice tom_low on hat_closed",)
    shifted = changed_by(base, ["rotate 3 hat_closed", "rotate 3 kick"])
    assert set(changes_between(base, shifted).phrases) == {"rotate 3 hat_closed", "rotate 3 kick"}


def test_what_went_far_has_not_moved() -> None:
    base = without_keys(parse_grid("kick x-----x---------").pattern)
    far = changed_by(base, ["remove kick at 2&", "place kick 4"])
    assert changes_between(base, far).phrases == ("remove kick at 2&", "place kick 4")
    near = changed_by(base, ["move kick 2& to 3"])
    assert changes_between(base, near).phrases == ("move kick 2& to 3",)


def test_struck_otherwise_is_told_too() -> None:
    base = without_keys(parse_grid("snare ----x-------x---\nhat_open --x-------------").pattern)
    told = ["stroke rim on snare at 2", "ornament flam on snare at 4", "velocity 90 on hat_open at 1&",
            "offset 7 ms on snare at 4", "length 1/8 on hat_open at 1&", "limb r on snare at 2"]  # fmt: skip
    other = changed_by(base, told)
    found = changes_between(base, other)
    assert found.exact and len(found.phrases) == len(told) and changed_by(base, found.phrases) == other


def test_what_the_language_cannot_say_is_not_claimed() -> None:
    base = without_keys(parse_grid("kick x---------------").pattern)
    assert not changes_between(base, replace(base, bars=2)).exact
    graced = replace(base, hits=(*base.hits, replace(base.hits[0], grace=True, offset_ms=-30.0)))
    assert not changes_between(base, graced).exact


def test_the_bases_snare_changes_all_variations() -> None:
    words, after = do(context(), "velocity 127 on snare bars 1")
    snares = [h.velocity for h in after.document.groove.pattern.hits if h.voice == "snare"]
    assert snares == [127] * 8 and "in part A" in words
    assert [p.changes for p in after.document.form.parts] == [(), ("move kick 2 to 1&",), ("remove kick at 2",)]


def test_an_edit_in_a_variation_is_one_more_change_of_it() -> None:
    words, after = do(context(), "place hat_open 4& bars 2")
    bars = [after.document.groove.pattern.frame.spot_at(h.position_ticks).bar
            for h in after.document.groove.pattern.hits if h.voice == "hat_open"]  # fmt: skip
    assert bars == [2, 5] and "in part B" in words
    assert after.document.form.part("B").changes == ("move kick 2 to 1&", "place hat_open 4&")


def test_a_change_that_no_longer_fits_is_kept_aside_and_comes_back() -> None:
    words, after = do(context(), "remove kick at 2 bars 1")
    assert "no longer fits B and is kept aside" in words
    assert after.document.form.part("B").aside == ("move kick 2 to 1&",)
    kept = parse_text(song_text(after.document.form, after.document.groove))[0]
    assert kept == after.document.form
    _, again = do(after, "place kick 2 bars 1")
    assert again.document.form.part("B").changes == ("move kick 2 to 1&",) and not again.document.form.part("B").aside
    assert [h for h in again.document.groove.pattern.hits if h.voice == "kick"]


def test_bars_that_come_or_go_keep_the_form_and_what_is_chosen_stays_chosen() -> None:
    _, after = do(context(), "double-bar 1")
    assert [s.part for s in after.document.form.stretches()] == [*"AABCCBAAC"]
    assert [s.name for s in after.document.form.sections] == ["verse", "last"]
    _, after = do(after, "go bar 3")
    words, after = do(after, "insert 1 bar")
    assert after.document.form.has("D") and "part D for what is new" in words
    words, after = do(context(), "meter 3/4")
    assert after.document.form is None and "let go" in words
    here = context()
    before = {h.key for h in here.document.groove.pattern.hits if h.voice == "hat_closed"}
    _, after = do(here, "remove snare at 3 bars 1")
    assert before == {h.key for h in after.document.groove.pattern.hits if h.voice == "hat_closed"}


def test_variations_of_variations_follow() -> None:
    form, _ = parse_text(SONG.replace("section verse", "part D = B\n  place snare 4a as ghost\nsection verse"))
    base = form.part("A")
    changed = replace(base, pattern=changed_by(base.pattern, ["place cowbell 1"]))
    after, told = followed(form.with_part(changed), "A")
    assert told == [] and all(any(h.voice == "cowbell" for h in p.pattern.hits) for p in after.parts)


@pytest.mark.parametrize("seed", range(6))
def test_random_edits_of_a_song_keep_form_and_groove_one_and_undo_to_the_beginning(seed: int) -> None:
    rng = random.Random(seed)
    phrases = ["remove kick at 1 bars {b}", "place snare 4a as ghost bars {b}", "velocity +9 on hat bars {b}",
               "place kick 3& bars {b}", "role accent on hat at 1 bars {b}", "voice ride on hat bars {b}"]  # fmt: skip
    here = context()
    done = 0
    for _ in range(20):
        try:
            _, here = do(here, rng.choice(phrases).format(b=rng.randint(1, 8)))
        except InputError:  # no such hit there any more
            continue
        done += 1
        form = here.document.form
        assert form is not None
        played = without_keys(here.document.groove.pattern)
        assert without_keys(song(form, here.document.groove).pattern).hits == played.hits
        assert parse_text(song_text(form, here.document.groove))[0] == form
    assert done > 5


def test_a_section_is_played_in_its_own_feel_and_the_others_in_the_usual_one() -> None:
    text = SONG.replace("section last", "  swing 8 0.6\n  lean snare +12\nsection last")
    text = text.replace("part A", "lean kick -4\npart A", 1)
    form, groove = parse_text(text)
    assert [bar for bar, _ in groove.feels] == [1, 6]
    plain = perform(replace(groove, feels=(), feel=Feel()))
    late_ms = (perform(groove).onset_s - plain.onset_s) * 1000
    hits = groove.pattern.hits
    verse = groove.pattern.frame.start_of(6)
    snares = [(h.position_ticks < verse, ms) for h, ms in zip(hits, late_ms, strict=True) if h.voice == "snare"]
    assert all(ms == pytest.approx(12 if here else 0) for here, ms in snares)
    kicks = [ms for h, ms in zip(hits, late_ms, strict=True) if h.voice == "kick" and h.position_ticks >= verse]
    assert all(ms == pytest.approx(-4) for ms in kicks)
    off = [
        ms
        for h, ms in zip(hits, late_ms, strict=True)
        if h.position_ticks % 20160 == 10080 and h.position_ticks < verse
    ]
    assert off and all(ms > 50 for ms in off)
    again, unrolled = parse_text(song_text(form, groove))
    assert again == form and unrolled.feels == groove.feels
    _, after = do(EditContext(opened(Document("song", groove, form=form))), "double-bar 1")
    assert [bar for bar, _ in after.document.groove.feels] == [1, 7]


def test_only_here_makes_an_exception_of_the_bar() -> None:
    here = do(context(), "only-here on")[1]
    words, after = do(here, "place hat_open 4& bars 3")
    form = after.document.form
    assert form.section("verse").exceptions == ((3, "place hat_open 4&"),) and "only in bar 3 of verse" in words
    assert form.part("C").changes == ("remove kick at 2",)
    _, again = do(after, "remove snare at 3 bars 3")
    assert [p for _, p in again.document.form.section("verse").exceptions] == ["place hat_open 4&", "remove snare at 3"]
    frame = again.document.groove.pattern.frame
    snares = [frame.spot_at(h.position_ticks).bar for h in again.document.groove.pattern.hits if h.voice == "snare"]
    assert snares == [1, 2, 4, 5, 6, 7, 8]
    _, part = do(do(again, "only-here off")[1], "remove snare at 3 bars 6")
    assert not [h for h in part.document.form.part("A").pattern.hits if h.voice == "snare"]
    assert parse_text(song_text(again.document.form, again.document.groove))[0] == again.document.form


def test_where_all_playings_were_edited_otherwise_each_keeps_its_own_sound() -> None:
    _, plain = do(
        EditContext(opened(Document("bars", context().document.groove))), "crescendo 60% 130% on hat bars 1-8"
    )
    _, after = do(context(), "crescendo 60% 130% on hat bars 1-8")
    form, pattern = after.document.form, after.document.groove.pattern
    assert without_keys(pattern).hits == without_keys(plain.document.groove.pattern).hits
    assert without_keys(pattern) == without_keys(song(form, after.document.groove).pattern) and form.singles


def test_a_section_that_is_doubled_as_a_whole_is_played_twice() -> None:
    _, after = do(context(), "double-bar 1-5")
    assert after.document.form.order == ("verse", "verse", "last")
    assert [s.name for s in after.document.form.sections] == ["verse", "last"]
