"""A form that is found is the groove: unrolled it gives every hit back, spots, velocities and deviations too."""

import random
from dataclasses import replace

import pytest
from bench.parts import playable
from hypothesis import given, settings
from tests.strategies import whole_grooves

from ghoststep.files.keymap import general_midi_keys
from ghoststep.files.midi_in import parse_midi
from ghoststep.files.midi_out import midi_file
from ghoststep.files.textgrid import parse_grid, parse_text
from ghoststep.files.textgrid_song_out import song_text
from ghoststep.listen.bars.reading import Hints
from ghoststep.music.errors import InputError
from ghoststep.music.form import MAX_WORKED, Form
from ghoststep.music.groove import Groove
from ghoststep.session.document.document import Document
from ghoststep.session.edits.commit import opened
from ghoststep.session.form.plain import without_keys
from ghoststep.session.language.doing import do
from ghoststep.session.language.edit_context import EditContext
from ghoststep.session.language.forms.words import song
from ghoststep.session.language.verb import commands_in
from ghoststep.work.formats.midi import marked
from ghoststep.work.forms import form_json, markers_of, proposed
from ghoststep.work.hits_heard import heard_performance

BAR = {"hat_closed": "x-x-x-x-x-x-x-x-", "snare": "----X-------X---", "kick": "X-------X-------"}


def bars_with(lone: str, count: int = 4, *, at: int = -1, letters: str) -> Groove:
    """Equal bars at 174, of which one (the last) has something that the others have not."""
    rows = [f"{name} {' | '.join([row] * count)}" for name, row in BAR.items()]
    others = ["-" * 16] * count
    others[at] = letters
    return parse_grid("tempo 174\n" + "\n".join([*rows, f"{lone} {' | '.join(others)}"]) + "\n")


def keeps_all(groove: Groove) -> Form:
    """The form that is found, once it was seen that it is the groove, unrolled and read from its text."""
    _, form = proposed(groove)
    sung = song(form, groove)
    assert without_keys(sung.pattern).hits == without_keys(groove.pattern).hits
    again, read = parse_text(song_text(form, groove))
    assert without_keys(read.pattern).hits == without_keys(groove.pattern).hits and again == form
    return form


def test_a_lone_open_hat_or_crash_is_an_exception_and_not_lost() -> None:
    form = keeps_all(bars_with("hat_open", letters="------------x---"))
    assert form.sections[0].exceptions == ((4, "place hat_open 4"),) and len(form.parts) == 1
    form = keeps_all(bars_with("crash", at=0, letters="X---------------"))
    assert form.sections[0].exceptions == ((1, "place crash 1 as accent"),)


def test_the_verb_keeps_every_hit_too() -> None:
    groove = bars_with("hat_open", letters="------------x---")
    _, after = do(EditContext(opened(Document("x", groove))), "letters")
    assert without_keys(after.document.groove.pattern).hits == groove.pattern.hits


def test_bars_that_are_alike_in_twos_are_a_variation() -> None:
    groove = bars_with("hat_open", 8, letters="------------x---")
    hit = replace(groove.pattern.at(groove.pattern.frame.start_of(8) + 60480, "hat_open"))
    start = groove.pattern.frame.start_of(4) + 60480
    both = groove.changed(hits=(*groove.pattern.hits, hit.moved(start)))
    form = keeps_all(both)
    assert form.part("B").base == "A" and form.part("B").changes == ("place hat_open 4",)


def test_ghosts_told_in_one_bar_and_not_in_the_other_are_never_taken_as_alike() -> None:
    snare = " | ".join(["----X--o----X---", "----X--x----X---", *["----X--o----X---"] * 2])
    form = keeps_all(parse_grid(f"snare {snare}\nkick {' | '.join(['X-------X-------'] * 4)}\n"))
    assert form.part("B").changes == ("role normal on snare at 2a",)


@pytest.mark.parametrize("seed", range(8))
def test_drawn_parts_keep_all(seed: int) -> None:
    rng = random.Random(4400 + seed)
    groove = playable(rng, rng.choice([8, 16, 24]))
    hits = tuple(replace(h, velocity=max(1, h.velocity - rng.randint(0, 9)), offset_ms=rng.choice([0.0, 2.5, -3.0]))
                 if rng.random() < 0.3 else h for h in groove.pattern.hits)  # fmt: skip
    keeps_all(groove)
    keeps_all(groove.changed(hits=hits))


@settings(max_examples=60, deadline=None)
@given(whole_grooves)
def test_any_groove_keeps_all(groove: Groove) -> None:
    document = opened(Document("x", groove.changed(rules=replace(groove.pattern.rules, linear=False, cycles=()))))
    groove = document.groove
    if not groove.pattern.hits:
        return
    _, form = proposed(groove)
    assert without_keys(song(form, groove).pattern).hits == without_keys(groove.pattern).hits


def test_a_heard_performance_keeps_all_with_what_each_bar_has_for_itself() -> None:
    from ghoststep.feel.perform import perform_passes
    from ghoststep.music.feel import Feel

    groove = playable(random.Random(8), 8).changed(feel=Feel(loose_ms=5.0))
    heard = heard_performance(perform_passes(groove, 2), "take", Hints())
    form = keeps_all(heard.groove)
    assert form.singles and len(form.parts) < heard.groove.pattern.bars


def test_an_edit_of_a_part_is_heard_in_all_its_bars_each_as_hard_as_it_was() -> None:
    loud = [90, 84, 97, 71]
    lines = "\n".join(f"hit snare bar {k + 1} 2 velocity {v}" for k, v in enumerate(loud))
    text = "\n".join(f"{name} {' | '.join([row] * 4)}" for name, row in BAR.items())
    _, context = do(EditContext(opened(Document("x", parse_grid(f"tempo 100\n{text}\n{lines}\n")))), "letters")

    def snares(at: EditContext, tick: int) -> list[int]:
        hits = at.document.groove.pattern.hits
        return [h.velocity for h in hits if h.voice == "snare" and h.position_ticks % 80640 == tick]

    words, after = do(context, "velocity +5 on snare at 2 bars 1")
    assert "in part A" in words and snares(after, 20160) == [v + 5 for v in loud]
    _, after = do(context, "remove snare at 2 bars 3")
    assert snares(after, 20160) == [] and len(snares(after, 60480)) == 4
    _, after = do(context, "move snare 2 bars 2 to 2&")
    assert snares(after, 30240) == loud


def test_naming_a_part_shortens_nothing() -> None:
    two = parse_grid("\n".join(f"{name} {row} | {row}" for name, row in BAR.items()))
    words, after = do(EditContext(opened(Document("x", two))), "part A bars 1")
    assert "played 2 times" in words and without_keys(after.document.groove.pattern).hits == two.pattern.hits
    three = parse_grid("kick X---X---X---X--- | X------- X------- | X-X-X-X-X-X-X-X-")
    words, after = do(EditContext(opened(Document("x", three))), "part A bars 1")
    assert "the rest is part B" in words and after.document.groove.pattern.bars == 3
    words, after = do(after, "part C bars 3")
    assert [s.part for s in after.document.form.stretches()] == ["A", "D", "C"]
    assert without_keys(after.document.groove.pattern).hits == three.pattern.hits


SONG = """tempo 100
part A
kick       X-------X-------
snare      ----X-------X---
part B = A
  fill-in 2 cell RLLK
section verse = A A A B
section chorus = A A
form = verse chorus verse
"""


def song_stand() -> EditContext:
    form, groove = parse_text(SONG)
    return EditContext(opened(Document("song", groove, form=form)))


def test_a_fill_stays_one_phrase_when_its_sticking_is_written() -> None:
    before = song_stand()
    _, after = do(before, "sticking choice 2")
    assert after.document.groove != before.document.groove
    assert after.document.form.part("B").changes[0] == "fill-in 2 cell RLLK"


def test_phrases_joined_by_then_or_a_semicolon_are_all_the_exceptions() -> None:
    _, after = do(song_stand(), "but verse bars 1 by place clap 2 then place cowbell 3")
    assert after.document.form.section("verse").exceptions == ((1, "place clap 2"), (1, "place cowbell 3"))
    whole = "but verse bars 1 by place clap 2; place cowbell 3"
    assert commands_in(whole) == [whole]
    assert commands_in("tempo 90; part A bars 1") == ["tempo 90", "part A bars 1"]
    words, after = do(after, "cue verse by place crash 4")
    words, after = do(after, "cue verse by place clap 4")
    assert "takes the place of place crash 4" in words
    words, after = do(after, "but verse by remove kick at 3")
    assert "every bar" in words and after.document.form.section("verse").exceptions[-1] == (0, "remove kick at 3")
    assert "  every bar remove kick at 3" in song_text(after.document.form, after.document.groove).splitlines()


@pytest.mark.parametrize("phrase", ["tempo 120", "swing 60%", "linear on", "bars 2", "feel laid-back"])
def test_what_a_bar_cannot_have_for_itself_is_refused(phrase: str) -> None:
    for verb in (f"but verse bars 1 by {phrase}", f"cue verse by {phrase}"):
        with pytest.raises(InputError, match="does not fit"):
            do(song_stand(), verb)


def test_a_tempo_of_single_bars_is_heard_and_written_also_where_sections_have_their_own() -> None:
    text = SONG.replace("section chorus = A A", "section chorus = A A\n  tempo 120")
    form, groove = parse_text(text)
    words, after = do(EditContext(opened(Document("song", groove, form=form))), "tempo 96 to 110 bars 2-3")
    tempo = after.document.groove.tempo
    assert [tempo.bpm_at(bar * 80640) for bar in (0, 1, 3, 4, 6)] == [100, 96, 110, 120, 100]
    assert after.document.form.section("chorus").tempo_bpm == 120
    assert parse_text(song_text(after.document.form, after.document.groove))[1].tempo == tempo
    words, across = do(after, "tempo 90 bars 4-5")
    assert "the song's own now" in words and across.document.groove.tempo.bpm_at(4 * 80640) == 90
    assert parse_text(song_text(across.document.form, across.document.groove))[1].tempo == across.document.groove.tempo
    words, after = do(EditContext(opened(Document("song", groove, form=form))), "tempo +10")
    assert after.document.form.section("chorus").tempo_bpm == 130 and "own now" not in words


def test_groups_of_parts_repeat() -> None:
    form, groove = parse_text(SONG.replace("section chorus = A A", "section chorus = A (A B) x3"))
    assert form.section("chorus").row == ("A", *("A", "B") * 3)
    assert "section chorus = A (A B) x3" in song_text(form, groove)


def test_markers_of_a_midi_file_are_its_sections_again() -> None:
    form, groove = parse_text(SONG.replace("section chorus = A A", "section chorus = A A\n  count-in 1"))
    document = Document("song", groove, form=form)
    data = bytearray()
    keys = general_midi_keys()
    _, write = midi_file(groove, keys, markers=markers_of(document))

    class Into:
        write = staticmethod(data.extend)

    write(Into)
    from ghoststep.files.midi_in import groove_of

    take = parse_midi(bytes(data), "song.mid", keys)
    again = marked(Document("song", groove_of(take)), take).form
    assert again is not None and again.order == ("verse", "chorus", "verse")
    assert again.passes[1].lead_bars == 1 and again.bars == form.bars


def test_forms_of_a_size_that_cannot_be_worked_out_are_refused_before_they_are() -> None:
    many = SONG.replace("section chorus = A A", "section chorus = A x999\n" + "  every bar velocity 9 on kick\n" * 99)
    for text, said in ((many, str(MAX_WORKED)), (SONG.replace("A A A B", "A x999 " * 9000), "at most 4096"),
                       (SONG.replace("A A A B", "(" * 50 + "A" + ")" * 50), "deep")):  # fmt: skip
        with pytest.raises(InputError, match=said):
            parse_text(text)


def test_the_json_of_a_form_names_variations() -> None:
    told = form_json(bars_with("hat_open", letters="------------x---"))
    assert told["parts"][0]["bars"] == [1, 2, 3, 4]
