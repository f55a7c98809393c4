"""Rendering to files: the exact loop, the ringing after it, rounds, another tempo, small memory."""

from pathlib import Path

import numpy as np
import pytest
import soundfile

from ghoststep.cli.main import main
from ghoststep.feel.perform import perform_passes
from ghoststep.files.textgrid import parse_grid
from ghoststep.music.kit import VOICE_INDEX
from ghoststep.music.performance import Performance
from ghoststep.sound.render import _BLOCK_S, render, rendered_blocks
from ghoststep.sound.sketch import sketch_kit
from ghoststep.work.rendering import Rendering, Stem, blocks_of

GRID = "tempo 138\nlean snare -12\ncrash X-----X---------\nsnare X---X-------X--x\nkick X-------X-------\n"
LOOP_S = 4 * 60 / 138


@pytest.fixture
def grid(tmp_path: Path) -> Path:
    path = tmp_path / "a.grid.txt"
    path.write_text(GRID)
    return path


def rendered(grid: Path, *words: str) -> tuple[np.ndarray, int]:
    out = grid.with_name("out.wav")
    assert main(["render", str(grid), str(out), "--bits", "32f", *words]) == 0
    return soundfile.read(out, always_2d=True)


def test_a_loop_is_its_length_to_the_sample_and_loses_nothing(grid: Path) -> None:
    loop, rate = rendered(grid, "--loop")
    tail, _ = rendered(grid, "--tail")
    assert len(loop) == round(LOOP_S * rate) and len(tail) > len(loop) + rate
    # What rings over the end sounds at the start, what comes early at the end: played round, it is the same sound.
    folded = np.zeros_like(loop)
    np.add.at(folded, (np.arange(len(tail)) - round(LOOP_S * rate)) % len(loop), tail)
    assert np.abs(folded - loop).max() < 2e-3
    twice, _ = rendered(grid, "--loop", "--repeat", "2")
    assert len(twice) == round(2 * LOOP_S * rate)


def test_what_is_early_keeps_its_lead_and_bar_one_its_bar_line(grid: Path, capsys: pytest.CaptureFixture[str]) -> None:
    tail, rate = rendered(grid, "--tail")
    assert "one empty bar" in capsys.readouterr().out
    first = np.flatnonzero(np.abs(tail).max(axis=1) > 1e-3)[0] / rate
    assert first == pytest.approx(LOOP_S - 0.012, abs=0.002)
    rendered(grid, "--loop")
    assert "at the end of the loop" in capsys.readouterr().out


def test_stems_are_as_long_as_the_mix_and_add_up_to_it(grid: Path, tmp_path: Path) -> None:
    mix, _ = rendered(grid, "--stems", str(tmp_path / "stems"))
    stems = [soundfile.read(p, always_2d=True)[0] for p in sorted((tmp_path / "stems").iterdir())]
    assert len(stems) == 3 and {len(s) for s in stems} == {len(mix)}
    assert np.abs(sum(stems) - mix).max() < 1e-5


def test_without_either_it_rings_out(grid: Path) -> None:
    plain, rate = rendered(grid)
    tail, _ = rendered(grid, "--tail")
    assert np.array_equal(plain, tail)
    assert np.abs(plain[-rate // 10 :]).max() < np.abs(plain).max() / 50


def test_rounds_and_tempo(grid: Path) -> None:
    once, rate = rendered(grid, "--tail", "--kit", "sketch")
    thrice, _ = rendered(grid, "--tail", "--repeat", "3", "--kit", "sketch")
    assert len(thrice) - len(once) == pytest.approx(2 * LOOP_S * rate, abs=2)
    slow, _ = rendered(grid, "--loop", "--tempo", "69")
    assert len(slow) == round(2 * LOOP_S * rate)


@pytest.mark.parametrize("words", [["--repeat", "0"], ["--repeat", "5000"], ["--tempo", "5"], ["--loop", "--tail"]])
def test_what_cannot_be_rendered_is_said(grid: Path, capsys: pytest.CaptureFixture[str], words: list[str]) -> None:
    assert main(["render", str(grid), str(grid.with_name("o.wav")), *words]) == 2
    assert capsys.readouterr().err.startswith("ghost-step: ") and not grid.with_name("o.wav").exists()


def test_stems_add_up_to_the_whole(grid: Path, tmp_path: Path) -> None:
    whole, _ = rendered(grid, "--loop", "--stems", str(tmp_path / "stems"))
    parts = [soundfile.read(p, always_2d=True)[0] for p in sorted((tmp_path / "stems").glob("*.wav"))]
    assert len(parts) == 3 and all(len(p) == len(whole) for p in parts)
    assert np.abs(sum(parts) - whole).max() < 1e-5


def test_blocks_are_the_whole_sound_and_each_is_small() -> None:
    groove = parse_grid(GRID)
    kit, played = sketch_kit(), perform_passes(groove, 40)
    blocks = list(rendered_blocks(played, kit, lead_s=0.05))
    assert len(blocks) > 5 and max(len(b) for b in blocks) < 15 * kit.rate
    whole = render(played, kit, lead_s=0.05)
    assert np.abs(np.concatenate(blocks)[: len(whole)] - whole[: sum(map(len, blocks))]).max() < 1e-4


def test_a_choke_is_heard_over_the_loop_point() -> None:
    """A closed hat on beat 1 chokes the open one that the loop ends with."""
    choked = parse_grid("tempo 120\nhat_open --------------X-\nhat_closed X---------------")
    free = parse_grid("tempo 120\nhat_open --------------X-\nkick X---------------")
    kit = sketch_kit()
    sounds = [
        np.concatenate(list(blocks_of(Rendering(g, kit, loop=True), Stem("voice", "hat_open")))) for g in (choked, free)
    ]
    after = [float(np.abs(s[4410:22050]).max()) for s in sounds]
    assert after[0] < after[1] / 20


def test_another_tempo_keeps_the_shape_of_one_that_moves(tmp_path: Path) -> None:
    moving = "tempo 96\nbar 2 tempo 96 -> 120 over 1\nkick X---X---X---X--- | X---X---X---X--- | X---X---X---X---"
    path = tmp_path / "moving.grid.txt"
    path.write_text(moving)
    main_bpm = parse_grid(moving).tempo.main_bpm
    usual, rate = rendered(path, "--loop")
    twice, _ = rendered(path, "--loop", "--tempo", f"{2 * main_bpm:g}")
    assert len(twice) == pytest.approx(len(usual) / 2, abs=1) and len(usual) < 3 * 4 * 60 / 96 * rate


def test_a_stroke_that_is_early_over_the_edge_of_a_block_sounds_once_and_on_time() -> None:
    """Strokes come in the order of the pattern: one that is ahead of its neighbour lies in the block before."""
    kit = sketch_kit()
    edge_s = _BLOCK_S
    onset_s = [0.0, edge_s + 0.004, edge_s - 0.006, 2 * edge_s + 0.001, 2 * edge_s - 0.02]
    voices = [VOICE_INDEX[name] for name in ("kick", "hat_closed", "snare", "snare", "kick")]
    played = Performance.of(onset_s, voices, [90] * 5, length_s=2 * edge_s + 1)
    blocks = np.concatenate(list(rendered_blocks(played, kit)))
    whole = render(played, kit)
    assert np.abs(blocks[: len(whole)] - whole).max() < 1e-4
