"""`ghost-step check` and `show --describe`."""

import json
from pathlib import Path

import pytest

from ghoststep.cli.main import main

TEXT = """tempo 150
hat_closed x-x-x-x-x-x-x-x-
crash X---------------
snare X---X--o-o--X--o
kick xxxxxxxxxxxxxxxx
"""


@pytest.fixture
def groove(tmp_path: Path) -> Path:
    path = tmp_path / "depot.grid.txt"
    path.write_text(TEXT, "utf-8")
    return path


def test_the_report_has_what_the_format_says(groove: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    out = tmp_path / "report.json"
    assert main(["check", str(groove), "--json", str(out)]) == 0
    told = capsys.readouterr().out
    assert "impossible" in told and "mend: remove hat_closed at 1 bars 1" in told
    report = json.loads(out.read_text("utf-8"))
    fast = next(f for f in report["findings"] if f["name"] == "too fast")
    assert fast["kind"] == "impossible" and fast["playable_to_bpm"] == 90 and fast["voices"] == ["kick"]
    assert set(fast) >= {"kind", "bar", "spot", "voices", "why", "playable_to_bpm", "mends"}
    assert {"bar": 1, "limb": "K", "bpm": 90} in report["limits_bpm"]
    assert len(report["sticking"]) == 31 and {s["limb"] for s in report["sticking"]} == {"R", "L", "K"}
    assert 0 <= report["likeness"]["score"] <= 1 and report["likeness"]["reasons"]
    assert report["names"] == [] and 0 < report["difficulty"]["score"] <= 10


def test_who_plays_it_matters(groove: Path, capsys: pytest.CaptureFixture[str]) -> None:
    assert main(["check", str(groove), "--pedals", "2", "--allow", "machine", "--player", "virtuoso"]) == 0
    told = capsys.readouterr().out
    assert "right foot" not in told and "mechanical" not in told
    assert main(["check", str(groove), "--player", "robot"]) == 2
    assert "learner, working, virtuoso" in capsys.readouterr().err
    assert main(["check", str(groove), "--way", "upside-down"]) == 2
    assert main(["check", str(groove), "--allow", "jazz"]) == 2
    assert main(["check", str(groove.with_name("none.mid"))]) == 2


def test_what_a_project_is_checked_against_is_kept_in_it(groove: Path, capsys: pytest.CaptureFixture[str]) -> None:
    project = groove.with_name("depot.ghoststep")
    done = [
        "edit",
        str(groove),
        "--do",
        "player learner; pedals 2; may-be machine on; meant three hands: bar 1 1",
        "-o",
    ]
    assert main([*done, str(project)]) == 2  # hits have names of their own by then
    assert "no finding" in capsys.readouterr().err
    assert main(["edit", str(groove), "--do", "player learner; pedals 2; may-be machine on", "-o", str(project)]) == 0
    capsys.readouterr()
    assert main(["check", str(project)]) == 0
    learner = capsys.readouterr().out
    assert "mechanical" not in learner and "two strokes" not in learner
    assert main(["check", str(project), "--player", "virtuoso"]) == 0
    assert capsys.readouterr().out != learner


def test_a_groove_is_told_in_sentences(groove: Path, capsys: pytest.CaptureFixture[str]) -> None:
    assert main(["show", str(groove), "--describe"]) == 0
    assert "Hat in eighths.\n" in capsys.readouterr().out
    assert main(["show", str(groove), "--describe", "--diff", str(groove)]) == 2


def test_a_set_up_of_the_kit_is_read_from_a_file(groove: Path, capsys: pytest.CaptureFixture[str]) -> None:
    kit = groove.with_name("kit.json")
    kit.write_text(
        '{"format": "ghost-step kit", "version": 1, "kick_pedals": 2, "stands": {"ride": [2.0, 0.5]}}', "utf-8"
    )
    assert main(["check", str(groove), "--setup", str(kit)]) == 0
    assert "right foot" not in capsys.readouterr().out
    for bad, words in (
        ('{"format": "ghost-step kit", "version": 9}', "newer version"),
        ('{"format": "feel", "version": 1}', "no set-up"),
        ("[1", "no set-up"),
        ('{"format": "ghost-step kit", "version": 1, "stands": {"ride": [99, 0]}}', "further than 5"),
        ('{"format": "ghost-step kit", "version": 1, "stands": {"gong": [0, 0]}}', "no voice"),
    ):
        kit.write_text(bad, "utf-8")
        assert main(["check", str(groove), "--setup", str(kit)]) == 2
        assert words in capsys.readouterr().err
