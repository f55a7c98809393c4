import numpy as np
import pytest

from ghoststep.files.textgrid import parse_grid
from ghoststep.music.groove import Groove
from ghoststep.session.document.document import Document
from ghoststep.session.edits import hit_edits as edits
from ghoststep.sound.mixdown import Mixdown
from ghoststep.sound.program import Wish, program
from ghoststep.sound.sketch import SketchKit


@pytest.fixture(scope="module")
def kit() -> SketchKit:
    return SketchKit(rate=22050)


@pytest.fixture
def groove(grid_text: str) -> Groove:
    return parse_grid(
        grid_text + "hat_open  --------------x- | ----------------\ncrash X--------------- | ----------------"
    )


def test_an_edit_mixed_in_is_the_same_as_mixed_anew(kit: SketchKit, groove: Groove) -> None:
    document, kept = Document("x", groove), Mixdown()
    program(document.groove, kit, Wish(), None, kept)
    dice = np.random.default_rng(3)
    for _ in range(25):
        hits = document.groove.pattern.hits
        hit = hits[int(dice.integers(len(hits)))]
        changes = (
            lambda d, h=hit: edits.set_velocity(d, [h], int(dice.integers(1, 127))),
            lambda d, h=hit: edits.nudge(d, [h], float(dice.normal(0, 8))),
            lambda d, h=hit: edits.remove_hits(d, [h]),
        )
        _, document = changes[int(dice.integers(3))](document)
        quick = program(document.groove, kit, Wish(), None, kept).samples
        anew = program(document.groove, kit, Wish()).samples
        assert np.abs(quick - anew).max() < 1e-4


def test_only_what_changed_is_heard_to_change(kit: SketchKit, groove: Groove) -> None:
    before = program(groove, kit, Wish(loop=False)).samples
    last_kick = [h for h in groove.pattern.hits if h.voice == "kick"][-1]
    _, document = edits.remove_hits(Document("x", groove), [last_kick])
    after = program(document.groove, kit, Wish(loop=False)).samples
    at = round(float(groove.tempo.seconds(last_kick.position_ticks)) * kit.rate)
    assert np.array_equal(before[: at - 2], after[: at - 2]) and np.abs(before[at:] - after[at:]).max() > 0.01


def test_another_kit_or_length_starts_over(kit: SketchKit, groove: Groove) -> None:
    kept = Mixdown()
    program(groove, kit, Wish(), None, kept)
    longer = groove.changed(bars=3)
    assert len(program(longer, kit, Wish(), None, kept).samples) > len(program(groove, kit, Wish(), None, kept).samples)
    other = program(groove, SketchKit(rate=32000), Wish(), None, kept)
    assert other.rate == 32000 and np.abs(other.samples).max() > 0.05


@pytest.mark.parametrize(
    ("voice", "stroke"),
    [("snare", s) for s in ("edge", "rim", "buzz", "brush")]
    + [
        ("hat_closed", "tip"),
        ("hat_closed", "shoulder"),
        ("ride", "tip"),
        ("crash", "shoulder"),
        ("hat_pedal", "splash"),
    ],
)
def test_every_stroke_has_a_sound_of_its_own(kit: SketchKit, voice: str, stroke: str) -> None:
    plain, struck = (kit.mono_blow(voice, 90, np.random.default_rng(1), s) for s in ("plain", stroke))
    length = min(len(plain), len(struck))
    apart = np.linalg.norm(plain[:length] - struck[:length]) / np.linalg.norm(plain[:length])
    level = 20 * np.log10(np.abs(struck).max() / np.abs(plain).max())
    assert apart > 0.1 and -18 < level < 14
