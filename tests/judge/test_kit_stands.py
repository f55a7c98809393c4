"""Who plays what depends on where the drums stand, in the check, in phrases and on the command line."""

import json
from pathlib import Path

import pytest

from ghoststep.cli.main import main
from ghoststep.files.project import load_project, save_project
from ghoststep.files.textgrid import parse_grid
from ghoststep.judge.hands import sticking
from ghoststep.judge.kit_setup import STANDARD, KitSetup
from ghoststep.music.errors import InputError
from ghoststep.music.groove import Groove
from ghoststep.session.document.document import Document
from ghoststep.session.language.doing import do
from ghoststep.session.language.edit_context import EditContext

MIRRORED = KitSetup("mirrored", {name: (-right, away) for name, (right, away) in STANDARD.stands.items()})
TOMS = "tempo 90\ntom_low x-------x-------\nsplash ----x-------x---\n"


def hands(groove: Groove, setup: KitSetup, way: str = "right-handed") -> dict[str, set[str]]:
    out: dict[str, set[str]] = {}
    for i, limb in sticking(groove, way, setup=setup).items():
        out.setdefault(groove.pattern.hits[i].voice, set()).add(limb)
    return out


def test_on_a_mirrored_kit_the_other_hand_plays_what_stands_far_on_its_side() -> None:
    groove = parse_grid(TOMS)
    assert hands(groove, STANDARD) == {"tom_low": {"R"}, "splash": {"R"}}
    assert hands(groove, MIRRORED)["tom_low"] == {"L"}
    far = KitSetup("splash left", {**STANDARD.stands, "splash": (-1.0, 0.5)})
    assert hands(groove, far) == {"tom_low": {"R"}, "splash": {"L"}}
    # For a left-handed player a kit is mirrored, and so are the hands.
    assert hands(groove, far, "left-handed") == {"tom_low": {"L"}, "splash": {"R"}}


def test_the_usual_hands_on_the_usual_kit_stay_and_a_ride_far_on_the_left_is_played_there() -> None:
    beat = parse_grid("tempo 100\nride x-x-x-x-x-x-x-x-\nsnare ----X-------X---\n")
    assert hands(beat, STANDARD) == {"ride": {"R"}, "snare": {"L"}}
    assert hands(beat, MIRRORED)["ride"] == {"L"}


def test_stands_are_said_kept_in_projects_and_used_by_sticking(tmp_path: Path) -> None:
    context = EditContext(Document("x", parse_grid(TOMS)))
    said, context = do(context, "stands splash -1 0.5")
    assert said == "The splash stands 1 to the left, 0.5 away, in arm's lengths"
    context = do(do(context, "pedals 2")[1], "stands low tom -1.1 0")[1]
    save_project(tmp_path / "a.ghoststep", context.document)
    again = load_project(tmp_path / "a.ghoststep")
    assert again.judged == context.document.judged
    assert again.judged.terms.setup.stand_of("splash") == (-1.0, 0.5) and again.judged.kit.kick_pedals == 2
    stuck = do(EditContext(again), "sticking right-handed")[1].document.groove.pattern.hits
    assert {h.limb_letter for h in stuck} == {"L"}
    assert do(EditContext(again), "stands usual")[1].document.judged.stands == ()


def test_what_is_one_instrument_moves_together() -> None:
    judged = do(EditContext(Document("x", parse_grid(TOMS))), "stands hat_closed 0.6 0.2")[1].document.judged
    assert [name for name, _, _ in judged.stands] == ["hat_closed", "hat_half", "hat_open"]


@pytest.mark.parametrize(
    "phrase", ["stands splash 7 0", "stands splash", "stands", "stands usual 1 2", "stands kick 1 1", "pedals 3"]
)
def test_what_cannot_stand_is_refused(phrase: str) -> None:
    with pytest.raises(InputError):
        do(EditContext(Document("x", parse_grid(TOMS))), phrase)


def test_a_kit_file_holds_in_check_and_in_edit(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    grid, kit, out = tmp_path / "a.grid.txt", tmp_path / "kit.json", tmp_path / "out.json"
    grid.write_text(TOMS)
    stands = {"splash": [-1.0, 0.5]}
    kit.write_text(json.dumps({"format": "ghost-step kit", "version": 1, "kick_pedals": 0, "stands": stands}))
    assert main(["check", str(grid), "--setup", str(kit), "--json", str(out)]) == 0
    limbs = {s["voice"]: s["limb"] for s in json.loads(out.read_text())["sticking"]}
    assert limbs == {"tom_low": "R", "splash": "L"}
    project = tmp_path / "b.ghoststep"
    assert main(["edit", str(grid), "--setup", str(kit), "--do", "sticking right-handed", "-o", str(project)]) == 0
    kept = load_project(project)
    assert {h.voice: h.limb_letter for h in kept.groove.pattern.hits} == limbs
    assert kept.judged.kit.kick_pedals == 0
    capsys.readouterr()
