"""Placement, pulling, printing and taking off: what should sound the same does, and what should change does."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from tests.feel.test_measure import PLAYER, TEXT
from tests.strategies import ornate_grooves

from ghoststep.feel.ornaments import spelled_out
from ghoststep.feel.perform import perform, perform_passes
from ghoststep.files.feels import use_shelf
from ghoststep.files.textgrid import parse_grid
from ghoststep.files.textgrid_out import grid_text
from ghoststep.music.errors import InputError
from ghoststep.music.feel import Feel, Swing
from ghoststep.music.groove import Groove
from ghoststep.music.player import Wander
from ghoststep.session.document.document import Document
from ghoststep.session.edits.commit import opened
from ghoststep.session.language.doing import do
from ghoststep.session.language.edit_context import EditContext
from ghoststep.session.named_feels import looked_up_by
from ghoststep.work.kits import use_kits


def context(text: str = TEXT, feel: Feel | None = None) -> EditContext:
    groove = parse_grid(text)
    return EditContext(opened(Document("yard", groove if feel is None else groove.changed(feel=feel))))


def said(start: EditContext, *phrases: str) -> Groove:
    for phrase in phrases:
        _, start = do(start, phrase)
    return start.document.groove


LOOSE = replace(PLAYER, loose_ms=5.0, wander=Wander(velocity=4), swings={"hat_closed": Swing(16, 0.6)})


def test_printed_it_sounds_the_same_and_has_no_feel_left() -> None:
    start = context(feel=LOOSE)
    after = said(start, "print-feel")
    assert np.allclose(perform(after).onset_s, perform(start.document.groove).onset_s, atol=1e-8)
    assert np.array_equal(perform(after).velocity, perform(start.document.groove).velocity)
    assert after.feel == Feel(take=LOOSE.take) and np.array_equal(perform(after, 3).onset_s, perform(after).onset_s)


@pytest.mark.parametrize("voice", ["snare", "hat_closed", "kick"])
def test_one_voice_is_printed_and_the_others_go_on(voice: str) -> None:
    start = context(feel=LOOSE)
    after = said(start, f"print-feel for {voice}")
    before, now = perform(start.document.groove), perform(after)
    assert np.allclose(now.onset_s, before.onset_s, atol=1e-8) and np.array_equal(now.velocity, before.velocity)
    mine = np.array([h.voice == voice for h in after.pattern.hits])
    again = perform(after, 2)
    same = np.isclose(again.onset_s, now.onset_s)
    assert same[mine].all() and not same[~mine].all()
    assert after.feel.steady == (voice,) and after.feel.lean_of(voice) == 0


def test_some_hits_are_printed_and_go_their_own_way_until_they_are_taken_off_again() -> None:
    drifting = replace(LOOSE, wander=Wander(velocity=4, tempo_percent=1.0), balance_db={"snare": 3.0})
    start = context(feel=drifting)
    after = said(start, "print-feel on snare at 4")
    before, now = perform(start.document.groove), perform(after)
    assert np.allclose(now.onset_s, before.onset_s, atol=1e-8) and np.array_equal(now.velocity, before.velocity)
    fixed = np.array([h.fixed for h in after.pattern.hits])
    assert fixed.any() and all(h.voice == "snare" for h in after.pattern.hits if h.fixed) and after.feel == drifting
    again = perform(after, 3)
    assert (
        np.allclose(again.onset_s[fixed], now.onset_s[fixed])
        and not np.isclose(again.onset_s, now.onset_s)[~fixed].all()
    )
    assert np.array_equal(again.velocity[fixed], now.velocity[fixed])
    told = parse_grid(grid_text(after))
    assert [h.fixed for h in told.pattern.hits] == fixed.tolist()
    off = said(EditContext(opened(Document("yard", after))), "take-off-feel on snare")
    assert np.allclose(perform(off).onset_s, now.onset_s, atol=1e-6) and not any(h.fixed for h in off.pattern.hits)


def test_printing_a_voice_writes_neither_the_balance_nor_the_drift_twice() -> None:
    drifting = replace(LOOSE, wander=Wander(tempo_percent=1.0), balance_db={"snare": 4.0})
    start = context(feel=drifting)
    after = said(start, "print-feel for snare")
    before, now = perform(start.document.groove), perform(after)
    assert np.allclose(now.onset_s, before.onset_s, atol=1e-8) and np.array_equal(now.velocity, before.velocity)


def test_hits_are_played_as_written_or_by_the_feel() -> None:
    start = context(feel=LOOSE)
    on = said(start, "as-written yes on kick")
    played = perform(on)
    kicks = [i for i, h in enumerate(on.pattern.hits) if h.voice == "kick"]
    written = on.tempo.seconds([on.pattern.hits[i].position_ticks for i in kicks])
    assert np.allclose(played.onset_s[kicks], written)
    assert [int(v) for v in played.velocity[kicks]] == [on.pattern.hits[i].velocity for i in kicks]
    back = said(start, "as-written yes on kick", "as-written no on kick")
    assert np.allclose(perform(back).onset_s, perform(start.document.groove).onset_s)
    with pytest.raises(InputError, match="Choose the hits"):
        said(start, "as-written yes")


def test_taken_off_it_sounds_the_same_and_the_habit_is_the_feels() -> None:
    plain = said(context(feel=PLAYER), "print-feel")
    after = said(EditContext(opened(Document("yard", plain))), "take-off-feel")
    assert np.allclose(perform(after).onset_s, perform(plain).onset_s, atol=1e-8)
    assert after.feel.swing.ratio == pytest.approx(0.56, abs=0.004)
    frame = after.pattern.frame
    assert after.feel.late_of("snare", 60480, frame) == pytest.approx(14, abs=0.05)
    assert max(abs(h.offset_ms) for h in after.pattern.hits) < 1.0


@settings(max_examples=40)
@given(ornate_grooves)
def test_any_groove_sounds_the_same_printed_and_taken_off(groove: Groove) -> None:
    start = EditContext(opened(Document("yard", replace(groove, feel=replace(groove.feel, loose_ms=0.0)))))
    if all(h.grace for h in start.document.groove.pattern.hits):
        return
    bare = start.document.groove
    bare = bare.changed(hits=tuple(replace(h, ornament="") for h in bare.pattern.hits))
    start = EditContext(opened(Document("yard", bare)))
    for phrase in ("print-feel", "take-off-feel"):
        after = said(start, phrase)
        assert np.allclose(perform(after).onset_s, perform(start.document.groove).onset_s, atol=1e-6)


def test_pulled_all_the_way_with_both_it_is_dead_on() -> None:
    start = context(feel=LOOSE)
    half, whole = said(start, "pull 50%"), said(start, "pull 100% with both")
    assert half.feel.loose_ms == 2.5 and half.feel.lean_ms == start.document.groove.feel.lean_ms
    steps = perform(whole).onset_s / (60 / 100 / 4)
    assert np.abs(steps - np.rint(steps)).max() < 1e-9
    straight = said(start, "pull 100% with swing")
    assert straight.feel.swing.straight and straight.feel.lean_of("snare") == 9


def test_some_hits_are_pulled_and_the_rest_is_left() -> None:
    start = context()
    moved = said(start, "nudge 10 ms on snare", "nudge -6 ms on kick", "pull 50% on snare")
    offsets = {h.voice: h.offset_ms for h in moved.pattern.hits}
    assert offsets == {"snare": 5, "kick": -6, "hat_closed": 0}
    with pytest.raises(InputError, match="whole voices"):
        do(start, "pull 50% with lean on snare")


@pytest.mark.parametrize(
    ("phrase", "leans"),
    [
        ("placement ahead", (-10, -10)), ("placement behind for snare", (12, 0)), ("placement on", (0, 0)),
        ("placement behind by 7 ms", (7, 7)), ("sit ahead for kick by 4", (0, -4)),
    ],
)  # fmt: skip
def test_placement(phrase: str, leans: tuple[float, float]) -> None:
    feel = said(context(), phrase).feel
    assert (feel.lean_of("snare"), feel.lean_of("kick")) == leans


def test_placement_keeps_what_voices_differ_by() -> None:
    feel = said(context(feel=PLAYER), "placement behind").feel
    assert feel.lean_of("snare") - feel.lean_of("hat_closed") == pytest.approx(12)
    assert np.mean([feel.lean_of(v) for v in ("snare", "hat_closed", "kick")]) == pytest.approx(12)


def test_a_player_of_the_shelf_is_laid_on() -> None:
    use_shelf()
    use_kits()
    words, after = do(context(), "feel laid-back touch 50% time 100% for snare")
    feel = after.document.groove.feel
    assert feel.lean_of("snare") == 14 and feel.lean_of("hat_closed") == 0 and feel.touch.share == 0.5
    assert words.startswith("Laid-back laid on, touch 50 %, time 100 %")
    words, between = do(context(), "feel laid-back and pushing share 25% touch 0%")
    assert between.document.groove.feel.lean_of("snare") == pytest.approx(14 - 0.25 * 20)
    assert words.startswith("Laid-back and 25 % of Pushing laid on")
    looked_up_by(lambda name: (Feel(lean_ms={"kick": 3}), name))
    assert said(context(), "feel mine").feel.lean_of("kick") == 3
    use_shelf()
    use_kits()


def test_notes_twice_as_long_sound_the_same() -> None:
    start = context(TEXT.replace("tempo 100", "tempo 100\nswing 16 0.6\nlean snare 8"))
    double = said(start, "rewrite double")
    assert double.tempo.main_bpm == 200 and double.pattern.bars == 16 and double.feel.swing.unit == 8
    assert np.allclose(perform(double).onset_s, perform(start.document.groove).onset_s)
    back = said(start, "rewrite double", "rewrite half")
    assert back.pattern.hits == start.document.groove.pattern.hits and back.feel == start.document.groove.feel


def test_what_cannot_be_rewritten_is_said() -> None:
    with pytest.raises(InputError, match="only 8ths and 16ths swing"):
        do(context("tempo 100\nswing 8 0.6\nsnare x-x-x-x-x-x-x-x-"), "rewrite double")
    with pytest.raises(InputError, match="whole"):
        do(context("tempo 100\nsnare x-x-x-x-x-x-x-x-"), "rewrite half")


def test_the_old_triplet_is_the_new_eighth() -> None:
    after = said(context(), "modulate triplet to eighth at 5")
    frame = after.pattern.frame
    assert after.tempo.bpm_at(frame.start_of(4)) == 100 and after.tempo.bpm_at(frame.start_of(5)) == pytest.approx(150)
    old, new = after.tempo.tick_seconds(0) * 20160 / 3, after.tempo.tick_seconds(frame.start_of(5)) * 20160 / 2
    assert old == pytest.approx(new)
    with pytest.raises(InputError, match="no bar 99"):
        do(context(), "modulate triplet to eighth at 99")


def test_leans_are_kept_or_scaled_with_the_tempo() -> None:
    start = context(feel=PLAYER)
    assert said(start, "tempo 200").feel.lean_of("snare") == 9
    scaled = said(start, "tempo 200 leans scale").feel
    assert scaled.lean_of("snare") == 4.5 and scaled.spots[0].late_ms == -2.0


def test_a_frozen_take_is_the_same_in_every_pass() -> None:
    start = context(feel=LOOSE)
    frozen = said(start, "freeze on")
    assert np.array_equal(perform(frozen, 5).onset_s, perform(frozen).onset_s)
    assert not said(start, "freeze on", "freeze").feel.frozen
    fourth = said(start, "freeze on every 4")
    alike = [np.array_equal(perform(fourth, n).onset_s, perform(fourth).onset_s) for n in range(8)]
    assert alike == [True, True, True, False] * 2
    both = perform_passes(fourth, 4).onset_s.reshape(4, -1)
    assert np.allclose(both[1] - both[0], fourth.length_s) and not np.allclose(both[3] - both[0], 3 * fourth.length_s)


def test_a_groove_with_ornaments_keeps_them_when_printed() -> None:
    start = context("tempo 100\nsnare ----X-------X---")
    ornate = said(start, "ornament flam on snare", "lean snare 9", "print-feel")
    assert [h.ornament for h in ornate.pattern.hits] == ["flam", "flam"]
    assert len(spelled_out(ornate).pattern.hits) == 4


def test_a_limbs_strokes_keep_their_order_and_that_is_told() -> None:
    start = context("tempo 200\nhat_closed xxxx------------\nhat_open ----x-----------")
    words, after = do(start, "lean hat_open -120")
    assert words.endswith("(1 stroke held back by the one before it)")
    played = perform(after.document.groove)
    assert (np.diff(played.onset_s) >= 0).all()
    assert "held back" not in do(start, "lean hat_open -20")[0]


def test_a_fixed_hit_keeps_all_of_its_own_deviation() -> None:
    start = context(feel=replace(LOOSE, own_share=0.4))
    moved = said(start, "as-written yes on snare at 2", "offset 10 ms on snare at 2")
    i = next(k for k, h in enumerate(moved.pattern.hits) if h.fixed)
    written = float(moved.tempo.seconds(moved.pattern.hits[i].position_ticks))
    assert perform(moved).onset_s[i] == pytest.approx(written + 0.010, abs=1e-9)
