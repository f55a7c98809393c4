"""A delay of a whole take is found before all else, and so are its spots, swing and leans those of the take in time."""

import random
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from bench.parts import playable

from ghoststep.feel.measure import measured
from ghoststep.feel.perform import perform
from ghoststep.files.keymap import general_midi_keys
from ghoststep.files.midi_in import read_midi
from ghoststep.files.midi_out import write_midi
from ghoststep.files.textgrid import parse_grid
from ghoststep.listen.bars.reading import Hints
from ghoststep.listen.entries.given import Stated, fit_of
from ghoststep.music.feel import Feel, Swing
from ghoststep.music.groove import Groove
from ghoststep.music.performance import Performance
from ghoststep.session.document.document import Document
from ghoststep.work.midi_heard import hear_midi
from ghoststep.work.opening import open_document

KEYS = general_midi_keys()
BEAT = """tempo 100
hat_closed x-x-x-x-x-x-x-x- | x-x-x-x-x-x-x-x-
snare      ----X--o----X--o | ----X--o----X---
kick       X-----x-X------- | X-----x-X-x-----
"""


def delayed(groove: Groove, late_ms: float) -> tuple[Performance, Stated]:
    """What is played, all of it so much later than the tempo and bars that are stated."""
    played = perform(groove).ordered()
    onset_s = played.onset_s + late_ms / 1000
    heard = Performance.of(onset_s + 1, played.voice, played.velocity, length_s=float(onset_s.max()) + 2)
    return heard, Stated(groove.tempo, groove.pattern.frame, groove.tempo.to_ticks(onset_s), 1.0)


@pytest.mark.parametrize("seed", range(5))
def test_delays_of_either_sign_are_found_in_drawn_parts(seed: int) -> None:
    rng = random.Random(900 + seed)
    groove = playable(rng, 4, rng.choice([84, 96, 120, 140]))
    swing = rng.choice([Swing(), Swing(16, 0.57), Swing(8, 0.62)])
    groove = groove.changed(feel=Feel(swing, {"snare": 6.0, "hat_closed": -4.0}, 4.0, seed + 1))
    for late_ms in (-200, -90, -35, 0, 35, 50, 110, 200):
        found = fit_of(*delayed(groove, late_ms))
        assert 1000 * found.offset_s == pytest.approx(late_ms, abs=12), late_ms


def written_late(tmp_path: Path, groove: Groove, late_ms: float) -> Path:
    """A MIDI file with one empty bar in front, in which all notes are late."""
    hits = tuple(replace(h, offset_ms=h.offset_ms + late_ms) for h in groove.pattern.hits)
    write_midi(tmp_path / "take.mid", groove.changed(hits=hits), KEYS)
    return tmp_path / "take.mid"


def spots(document: Document) -> list[tuple[int, str]]:
    return [(h.position_ticks, h.voice) for h in document.groove.pattern.hits]


@pytest.mark.parametrize("late_ms", [-80, 50, 120])
def test_a_late_take_has_the_spots_and_the_swing_of_the_groove(tmp_path: Path, late_ms: float) -> None:
    groove = parse_grid(BEAT)
    path = written_late(tmp_path, groove, late_ms)
    heard = hear_midi(read_midi(path, KEYS), "take", Hints())
    assert spots(heard) == spots(Document("", groove)) and heard.groove.feel.swing.straight
    assert not heard.groove.feel.lean_ms
    side = "behind" if late_ms > 0 else "ahead of"
    assert f"lies {abs(late_ms)} ms {side} its grid" in heard.listening.remarks[0]
    as_written = open_document(path, KEYS)
    assert spots(as_written) == spots(heard)
    assert np.allclose([h.offset_ms for h in as_written.groove.pattern.hits], late_ms, atol=0.5)


def test_a_take_in_time_is_left_alone(tmp_path: Path) -> None:
    path = written_late(tmp_path, parse_grid(BEAT), 0)
    assert "whole take" not in " ".join(hear_midi(read_midi(path, KEYS), "take", Hints()).listening.remarks)


def test_a_players_leans_by_spot_outlive_the_delay(tmp_path: Path) -> None:
    lines = [f"hit snare bar {bar} {beat} late {6 if beat == 2 else 14}" for bar in range(1, 17) for beat in (2, 4)]
    bars = " | ".join
    text = f"tempo 104\nhat_closed {bars(['x-x-x-x-x-x-x-x-'] * 16)}\nsnare {bars(['----X-------X---'] * 16)}\n"
    groove = parse_grid(text + f"kick {bars(['X-------X-------'] * 16)}\n" + "\n".join(lines))
    path = written_late(tmp_path, groove, 50)
    found = {s.at_ticks: s.late_ms for s in measured(hear_midi(read_midi(path, KEYS), "", Hints()).groove).spots
             if s.voice == "snare"}  # fmt: skip
    assert found[20160] == pytest.approx(6, abs=1) and found[3 * 20160] == pytest.approx(14, abs=1)


def test_graces_take_no_part_in_the_swing_of_a_file(tmp_path: Path) -> None:
    text = "tempo 96\nhat_closed x---x---x---x---\nsnare ----X-------X---\nkick X-------X-------\n"
    graces = "".join(f"hit snare bar 1 {beat} ornament flam\n" for beat in (2, 4))
    groove = parse_grid(text + graces)
    write_midi(tmp_path / "flams.mid", groove, KEYS)
    heard = hear_midi(read_midi(tmp_path / "flams.mid", KEYS), "flams", Hints())
    assert heard.groove.feel.swing.straight
    assert {h.position_ticks % 20160 for h in heard.groove.pattern.hits} == {0}


def test_a_syncopated_part_in_time_is_not_moved_to_where_strokes_are_more_usual() -> None:
    """Half a sixteenth more usual is no reason: strokes that lie on the grid stay there."""
    beat = "tempo 110\nhat_closed x-x-x-x-x-x-x-x- | x-x-x-x-x-x-x-x-\nsnare ---X-------X---- | ---X-------X----\n"
    groove = parse_grid(beat + "kick -x-----x-x------ | -x-----x-x------\n")
    assert fit_of(*delayed(groove, 0)).offset_s == 0


OFF_BEATS = """tempo 100
hat_closed -x-x-x-x-x-x-x-x | -x-x-x-x-x-x-x-x
snare      --X-------X----- | --X-------X-----
kick       X-------X------- | X-------X-------
"""


def test_an_unusual_groove_on_its_grid_is_not_taken_for_one_that_is_late_by_a_sixteenth() -> None:
    assert fit_of(*delayed(parse_grid(OFF_BEATS), 0)).offset_s == 0


def test_a_usual_groove_that_is_late_by_just_a_sixteenth_is_found_though_it_lies_on_the_grid() -> None:
    assert 1000 * fit_of(*delayed(parse_grid(BEAT), 150)).offset_s == pytest.approx(150, abs=1)
