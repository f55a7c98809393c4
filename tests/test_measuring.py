"""The tools that measure say what they say they do."""

from pathlib import Path

import numpy as np
from tools.measure_fit import judged, spoiled
from tools.mutants import nearest
from tools.training.kept_back import random_groove

from ghoststep.feel.perform import perform
from ghoststep.listen.bars.explain import explain


def test_a_spoiled_performance_keeps_track_of_where_its_hits_come_from() -> None:
    rng = np.random.default_rng(1)
    played = perform(random_groove(rng))
    heard, source = spoiled(played, rng, dropped=0.2, added=0.1)
    kept = source[source >= 0]
    assert len(heard) == len(source) and len(kept) < len(played) and (source < 0).sum() == round(0.1 * len(played))
    assert np.array_equal(heard.voice[source >= 0], played.voice[kept])
    assert np.abs(heard.onset_s[source >= 0] - 0.4 - np.maximum(played.onset_s[kept], 0)).max() < 0.006


def test_an_unspoiled_plain_groove_is_placed_wholly() -> None:
    grooves = (random_groove(np.random.default_rng(seed)) for seed in range(50))
    groove = next(g for g in grooves if g.pattern.meter.numerator == 4 and g.tempo.main_bpm < 125)
    heard, source = spoiled(perform(groove), np.random.default_rng(0), dropped=0.0, added=0.0)
    outcome = judged(groove, explain(heard), source)
    assert outcome.tempo and outcome.meter and outcome.downbeat and outcome.placed > 0.95
    assert "->" in outcome.words


def test_what_is_quick_and_near_is_asked_first_about_a_fault() -> None:
    root = Path(__file__).parents[1]
    near = nearest.tests_near(root / "src/ghoststep/files/midi_out.py", root)
    assert near[0] == "tests/test_golden.py" and "tests/files/test_midi.py" in near[1:4] and len(near) <= 11
    assert "tests/test_golden.py" not in nearest.tests_near(root / "src/ghoststep/files/places.py", root)
