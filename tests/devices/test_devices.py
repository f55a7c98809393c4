import sys
import threading
import types
from collections.abc import Callable

import numpy as np
import pytest

from ghoststep.devices.output import BLOCK, PortAudioOutput, SimulatedOutput, default_output
from ghoststep.devices.player import Player
from ghoststep.sound.program import Program, Source

RATE = 44100


class HandOutput:
    """An output that is turned by hand: every call of `turn` asks for one block."""

    name, simulated, latency_s = "hand", True, 0.0

    def __init__(self) -> None:
        self.fill: Callable[[np.ndarray], None] | None = None

    def start(self, fill: Callable[[np.ndarray], None], rate: int) -> None:
        self.fill = fill

    def stop(self) -> None:
        self.fill = None

    def turn(self, frames: int = BLOCK) -> np.ndarray:
        out = np.full((frames, 2), np.nan, np.float32)
        assert self.fill is not None
        self.fill(out)
        return out


def ramp(length: int, *, start: float = 0.0, count_in: int = 0, region: tuple[int, int] = (0, 80640)) -> Program:
    values = (start + np.arange(length, dtype=np.float32))[:, None].repeat(2, axis=1)
    return Program(values, np.full((count_in, 2), -1, np.float32), RATE, region, (Source.GROOVE,))


def test_a_loop_goes_round_without_a_gap() -> None:
    output = HandOutput()
    player = Player(output)
    player.play(ramp(700), loop=True)
    heard = np.concatenate([output.turn() for _ in range(4)])[:, 0]
    assert np.array_equal(heard, np.arange(4 * BLOCK) % 700)
    assert player.playing and player.position_ticks() == pytest.approx(80640 * (4 * BLOCK % 700) / 700)


def test_without_loop_it_ends_in_silence() -> None:
    output = HandOutput()
    player = Player(output)
    player.play(ramp(600), loop=False)
    output.turn()
    last = output.turn()[:, 0]
    assert last[:88].tolist() == list(range(512, 600)) and not last[88:].any()
    assert not player.playing and player.position_ticks() is None
    assert not output.turn().any()


def test_the_count_in_comes_once_and_first() -> None:
    output = HandOutput()
    player = Player(output)
    player.play(ramp(300, count_in=700), loop=True)
    assert (output.turn() == -1).all() and player.position_ticks() is None
    second = output.turn()[:, 0]
    assert (second[:188] == -1).all() and second[188:191].tolist() == [0, 1, 2]


def test_an_edit_is_heard_from_the_next_block_at_the_same_place() -> None:
    output = HandOutput()
    player = Player(output)
    player.play(ramp(2000), loop=True)
    output.turn()
    player.replace(ramp(2000, start=10_000), loop=True)
    block = output.turn()[:, 0]
    assert block[200:].tolist() == [10_000 + i for i in range(712, 1024)]
    assert 512 <= block[0] < 600  # blended in from the old sound, so there is no crack


def test_another_region_or_length_keeps_the_place_of_the_groove() -> None:
    output = HandOutput()
    player = Player(output)
    player.play(ramp(2000), loop=True, from_ticks=40320)
    assert output.turn()[0, 0] == 1000
    player.replace(ramp(4000), loop=True)
    assert output.turn()[300, 0] == pytest.approx(2 * 1512 + 300, abs=2)
    player.replace(ramp(100, region=(0, 20160)), loop=True)
    assert np.isfinite(output.turn()).all()


class Clock:
    """A clock that only moves when somebody waits; it stops the output after ten seconds of its own."""

    def __init__(self) -> None:
        self.now_s = 100.0

    def monotonic(self) -> float:
        return self.now_s

    def wait(self, seconds: float) -> None:
        self.now_s += seconds

    def is_set(self) -> bool:
        return self.now_s >= 110.0


def test_the_simulated_output_keeps_time(monkeypatch: pytest.MonkeyPatch) -> None:
    clock, frames = Clock(), []
    monkeypatch.setattr("ghoststep.devices.output.time", clock)
    output = SimulatedOutput()
    output._stop = clock  # type: ignore[assignment]
    output._run(lambda out: frames.append(len(out)), RATE)
    assert sum(frames) == pytest.approx(10 * RATE, abs=2 * BLOCK)


def test_a_stopped_output_asks_for_nothing_more() -> None:
    output, asked = SimulatedOutput(pace=0), threading.Event()
    frames: list[int] = []

    def fill(out: np.ndarray) -> None:
        frames.append(len(out))
        asked.set()

    output.start(fill, RATE)
    assert asked.wait(60)
    output.stop()
    count = len(frames)
    assert output._thread is None and len(frames) == count


def test_unpaced_it_runs_as_fast_as_it_can() -> None:
    ended = threading.Event()

    class Watched(SimulatedOutput):
        def start(self, fill: Callable[[np.ndarray], None], rate: int) -> None:
            def watched(out: np.ndarray) -> None:
                fill(out)
                if player._ended:
                    ended.set()

            super().start(watched, rate)

    player = Player(Watched(pace=0))
    player.play(ramp(20 * RATE), loop=False)
    assert ended.wait(60)
    assert not player.playing
    player.stop()


def test_without_the_library_or_a_device_the_stand_in_says_why(monkeypatch: pytest.MonkeyPatch) -> None:
    class Missing:
        def find_spec(self, name: str, *_: object) -> None:
            if name == "sounddevice":
                raise OSError("PortAudio library not found")

    monkeypatch.delitem(sys.modules, "sounddevice", raising=False)
    monkeypatch.setattr(sys, "meta_path", [Missing(), *sys.meta_path])
    assert default_output().simulated and "PortAudio" in default_output().name


class FakeError(Exception):
    pass


def fake_sounddevice(*, opens: bool) -> types.SimpleNamespace:
    class Stream:
        latency = 0.02

        def __init__(self, **settings: object) -> None:
            if not opens:
                raise FakeError("Invalid device")
            self.settings = settings

        def start(self) -> None:
            self.settings["callback"](np.ones((4, 2), np.float32), 4, None, None)

        def close(self) -> None:
            pass

    return types.SimpleNamespace(OutputStream=Stream, PortAudioError=FakeError)


def test_a_device_that_fails_is_replaced_by_silence() -> None:
    player = Player(PortAudioOutput(fake_sounddevice(opens=False), "broken"))
    player.play(ramp(RATE), loop=True)
    assert player.playing and player.output.simulated and "Invalid device" in player.output.name
    player.stop()


def test_trouble_in_the_callback_does_not_end_the_sound(caplog: pytest.LogCaptureFixture) -> None:
    output = PortAudioOutput(fake_sounddevice(opens=True), "fine")

    def broken(_out: np.ndarray) -> None:
        raise ZeroDivisionError

    output.start(broken, RATE)
    assert output.latency_s == 0.02 and "filling a sound block failed" in caplog.text
    output.stop()
