"""Sound outputs: PortAudio where there is a device, a simulated one that keeps time where there is none."""

import logging
import threading
import time
from collections.abc import Callable
from typing import Any, Protocol

import numpy as np
from numpy.typing import NDArray

log = logging.getLogger(__name__)
Fill = Callable[[NDArray[np.float32]], None]
BLOCK = 512


class Output(Protocol):
    """Something that asks again and again for the next block of samples, shape (frames, 2)."""

    name: str
    simulated: bool
    latency_s: float

    def start(self, fill: Fill, rate: int) -> None: ...

    def stop(self) -> None: ...


class SimulatedOutput:
    """Keeps real time and throws the samples away; `pace` 0 runs as fast as it can, for tests."""

    simulated = True
    latency_s = 0.0

    def __init__(self, reason: str = "no sound device", *, pace: float = 1.0) -> None:
        self.name = reason
        self._pace = pace
        self._thread: threading.Thread | None = None
        self._stop = threading.Event()

    def start(self, fill: Fill, rate: int) -> None:
        self.stop()
        self._stop.clear()
        self._thread = threading.Thread(target=self._run, args=(fill, rate), name="simulated sound", daemon=True)
        self._thread.start()

    def _run(self, fill: Fill, rate: int) -> None:
        block = np.zeros((BLOCK, 2), np.float32)
        due = time.monotonic()
        while not self._stop.is_set():
            fill(block)
            due += self._pace * BLOCK / rate
            self._stop.wait(max(0.0, due - time.monotonic()))

    def stop(self) -> None:
        self._stop.set()
        if self._thread is not None and self._thread is not threading.current_thread():
            self._thread.join(timeout=2)
        self._thread = None


class PortAudioOutput:
    """The default device through PortAudio. Building it opens nothing; `start` raises OSError where it cannot play."""

    simulated = False

    def __init__(self, sounddevice: Any, name: str) -> None:
        self._sd = sounddevice
        self.name = name
        self.latency_s = 0.0
        self._stream: Any = None

    def start(self, fill: Fill, rate: int) -> None:
        self.stop()

        def callback(out: NDArray[np.float32], frames: int, _when: Any, status: Any) -> None:
            # An exception here would end the stream without a word.
            try:
                fill(out)
            except Exception:
                out.fill(0)
                log.exception("filling a sound block failed")
            if status:
                log.warning("sound device: %s", status)

        try:
            self._stream = self._sd.OutputStream(
                samplerate=rate, channels=2, dtype="float32", blocksize=BLOCK, latency="low", callback=callback
            )
            self._stream.start()
            self.latency_s = float(self._stream.latency)
        except self._sd.PortAudioError as error:
            self._stream = None
            raise OSError(f"the sound device does not play: {error}") from error

    def stop(self) -> None:
        if self._stream is not None:
            self._stream.close()
            self._stream = None


def default_output() -> Output:
    """The sound device where there is one, else the simulated one whose name says why."""
    try:
        import sounddevice
    except OSError:
        return SimulatedOutput("the sound library PortAudio is missing")
    try:
        device = sounddevice.query_devices(kind="output")
    except (sounddevice.PortAudioError, ValueError):
        return SimulatedOutput("no sound device")
    return PortAudioOutput(sounddevice, str(device["name"]))
