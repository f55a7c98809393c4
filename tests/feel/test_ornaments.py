import numpy as np
import pytest
from hypothesis import given, settings
from tests.strategies import ornate_grooves

from ghoststep.feel.ornaments import landing_ticks, spelled_out
from ghoststep.feel.perform import perform
from ghoststep.files.textgrid import parse_grid
from ghoststep.music.errors import InputError
from ghoststep.music.feel import Feel, Swing
from ghoststep.music.groove import Groove
from ghoststep.music.kit import VOICE_INDEX
from ghoststep.music.ornaments import ornament
from ghoststep.music.pattern import Hit
from ghoststep.music.touch import Role
from ghoststep.session.document.document import Document
from ghoststep.session.edits.stroke_edits import set_length, set_ornament, set_stroke


def one(name: str, *, length_ticks: int = 0, limb: str = "R", bpm: int = 100) -> Groove:
    groove = parse_grid(f"tempo {bpm}\nsnare x--------------- | ----------------")
    hit = Hit(0, "snare", 80, Role.NORMAL, limb=limb, ornament=name, length_ticks=length_ticks)
    return groove.changed(hits=(hit,))


@settings(max_examples=50, deadline=None)
@given(ornate_grooves)
def test_spelling_out_leaves_nothing_to_spell(groove: Groove) -> None:
    plain = spelled_out(groove)
    assert not any(h.ornament for h in plain.pattern.hits) and spelled_out(plain) is plain
    assert len(perform(groove)) == len(plain.pattern.hits) >= len(groove.pattern.hits)
    # What was struck is still struck, where it was.
    mains = {(h.position_ticks, h.voice) for h in plain.pattern.hits}
    assert {(h.position_ticks, h.voice) for h in groove.pattern.hits} <= mains


def test_grace_notes_go_ahead_softly_by_the_other_hand() -> None:
    for name, count in (("flam", 1), ("drag", 2), ("ruff", 3)):
        hits = spelled_out(one(name)).pattern.hits
        graces = [h for h in hits if h.grace]
        assert len(graces) == count and all(h.limb == "L" and h.velocity < 50 and h.offset_ms < 0 for h in graces)
        onset = perform(one(name)).onset_s
        assert 0.015 <= -onset.min() <= 0.1 and len(hits) == count + 1


@pytest.mark.parametrize(
    ("name", "hands"), [("roll5", "RRLLR"), ("roll6", "RLLRRL"), ("roll7", "RRLLRRL"), ("double", "RR")]
)
def test_rolls_have_their_sticking_and_land(name: str, hands: str) -> None:
    hits = spelled_out(one(name)).pattern.hits
    assert "".join(h.limb for h in hits)[: len(hands)] == hands or name == "roll6"
    gaps = np.diff([h.position_ticks for h in hits])
    assert len(set(gaps.tolist())) == 1 and gaps[0] == 2520
    mirrored = spelled_out(one(name, limb="L")).pattern.hits
    assert "".join(h.limb for h in mirrored) == "".join(h.limb for h in hits).translate(str.maketrans("RL", "LR"))


@pytest.mark.parametrize("bpm", [60, 100, 160, 240])
def test_open_rolls_take_as_many_strokes_as_hands_play(bpm: int) -> None:
    groove = one("roll", length_ticks=40320, bpm=bpm)
    hits = spelled_out(groove).pattern.hits
    strokes = [h for h in hits if h.position_ticks < 40320]
    per_s = len(strokes) / float(groove.tempo.seconds(40320))
    assert 8 <= per_s <= 18 and hits[-1].position_ticks == 40320 and hits[-1].velocity > 80
    assert {h.stroke for h in spelled_out(one("press", bpm=bpm)).pattern.hits[:-1]} == {"buzz"}


def test_a_roll_lands_on_what_is_written_there() -> None:
    groove = one("roll5")
    landing = landing_ticks(groove.pattern.hits[0], groove.pattern)
    written = groove.changed(hits=(*groove.pattern.hits, Hit(landing, "snare", 99, Role.ACCENT)))
    assert [h.velocity for h in spelled_out(written).pattern.hits if h.position_ticks == landing] == [99]


def test_lengths_end_sounds_and_the_loop_point_may() -> None:
    groove = parse_grid("tempo 120\nhat_open x---------------\ncrash X---------------\nkick ----x-----------")
    document = Document("x", groove)
    open_hat = next(h for h in groove.pattern.hits if h.voice == "hat_open")
    _, closed = set_length(document, [open_hat], 10080)
    played = perform(closed.groove)
    at = list(played.voice).index(VOICE_INDEX["hat_open"])
    assert played.stops_s[at] == pytest.approx(0.25) and np.isinf(played.stops_s).sum() == 2
    rules = closed.groove.pattern.rules
    dry = closed.groove.changed(rules=type(rules)(ring_over=False))
    stops = dict(zip(perform(dry).voice.tolist(), perform(dry).stops_s.tolist(), strict=True))
    assert stops[VOICE_INDEX["crash"]] == pytest.approx(2.0) and np.isinf(stops[VOICE_INDEX["kick"]])


def test_what_does_not_fit_is_refused_in_words() -> None:
    groove = parse_grid("snare x-x-x---x-------\nkick x---x---x---x---\nhat_closed x-x-x-x-x-x-x-x-")
    document = Document("x", groove)
    hits = groove.pattern.hits
    snares, kicks = ([h for h in hits if h.voice == name] for name in ("snare", "kick"))
    for change, says in (
        (lambda: set_ornament(document, kicks, "flam"), "with sticks on a drum"),
        (lambda: set_ornament(document, snares, "kiss"), "no ornament"),
        (lambda: set_ornament(document, snares[:1], "roll7"), "would run over Snare 1&"),
        (lambda: set_ornament(document, snares[-1:], "roll"), ""),
        (lambda: set_length(document, kicks, 5040), "A length needs something that rings"),
        (lambda: set_length(document, snares, 5040), "A length needs something that rings"),
        (lambda: set_stroke(document, kicks, "rim"), "is played on: snare"),
        (lambda: set_stroke(document, kicks, "shove"), "no stroke"),
    ):
        if says:
            with pytest.raises(InputError, match=says):
                change()
        else:
            assert change()[1] is not document
    _, rolled = set_ornament(document, snares[-1:], "roll")
    roll = [h for h in rolled.groove.pattern.hits if h.ornament]
    with pytest.raises(InputError, match="outlast the groove"):
        set_length(rolled, roll, 60480)


def test_every_ornament_names_itself() -> None:
    with pytest.raises(InputError, match="flam, drag"):
        ornament("trill")


def test_strokes_of_a_roll_stay_even_under_swing() -> None:
    for name in ("roll5", "roll7", "roll"):
        rolled = one(name, length_ticks=20160 if name == "roll" else 0, bpm=137)
        swung = rolled.changed(feel=Feel(Swing(16, 0.6)))
        strokes = np.sort(perform(swung).onset_s)
        gaps = np.diff(strokes)[:-1] if name != "roll" else np.diff(strokes)
        assert np.ptp(gaps) < 1e-6, name


def test_a_roll_is_landed_by_the_hand_that_did_not_strike_last() -> None:
    for name, last in (("roll6", "L"), ("roll5", "R")):
        hits = spelled_out(one(name)).pattern.hits
        assert hits[-1].limb != hits[-2].limb and hits[-1].limb == last


def test_a_roll_lands_on_what_any_voice_plays_there() -> None:
    groove = one("roll5")
    landing = landing_ticks(groove.pattern.hits[0], groove.pattern)
    crashed = groove.changed(hits=(*groove.pattern.hits, Hit(landing, "crash", 110, Role.ACCENT)))
    assert [h.voice for h in spelled_out(crashed).pattern.hits if h.position_ticks == landing] == ["crash"]


def test_a_roll_at_the_loops_end_lands_on_beat_1() -> None:
    groove = parse_grid("tempo 100\nsnare x---------------")
    last = Hit(15 * 5040, "snare", 80, Role.NORMAL, ornament="roll", length_ticks=5040)
    hits = spelled_out(groove.changed(hits=(last,))).pattern.hits
    assert hits[0].position_ticks == 0 and len(hits) > 2
