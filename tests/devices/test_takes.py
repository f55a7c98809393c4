"""Takes from a simulated kit: a drummer with known errors, moments that come back, and what cannot be recorded."""

import sys
import threading
import types
from pathlib import Path
from typing import ClassVar

import mido
import numpy as np
import pytest
import soundfile

from ghoststep.cli.main import main
from ghoststep.devices import alsa
from ghoststep.devices.drummer import Errors, played
from ghoststep.devices.midi_in import MOST_EVENTS, MidiEvent, SimulatedKit, taken
from ghoststep.feel.perform import perform_passes
from ghoststep.files.keymap import general_midi_keys
from ghoststep.files.textgrid import parse_grid
from ghoststep.music.errors import InputError
from ghoststep.music.kit import VOICE_NAMES
from ghoststep.work.takes import take_midi

GROOVE = parse_grid("tempo 120\nhat_closed x-x-x-x-x-x-x-x-\nsnare ----X-------X---\nkick X-------X-------\n")
MEANT = perform_passes(GROOVE, 8).ordered()
KEYS = [general_midi_keys().key_of(v) for v in VOICE_NAMES]


def test_a_drummer_without_errors_plays_what_is_meant() -> None:
    found = played(MEANT, Errors())
    assert np.array_equal(found.onset_s, MEANT.onset_s) and np.array_equal(found.velocity, MEANT.velocity)


def test_errors_are_as_large_as_they_are_said_to_be() -> None:
    late = played(MEANT, Errors.parse("late=8, spread=12ms, seed=3"))
    apart = 1000 * (np.sort(late.onset_s) - MEANT.onset_s)
    assert apart.mean() == pytest.approx(8, abs=2.5)
    missed = played(MEANT, Errors.parse("miss=20%,seed=1"))
    assert 0.65 < len(missed) / len(MEANT) < 0.9
    more = played(MEANT, Errors.parse("extra=10%"))
    assert len(more) == len(MEANT) + round(0.1 * len(MEANT))
    drift = played(MEANT, Errors.parse("drift=2%"))
    end = MEANT.length_s
    assert drift.onset_s[-1] - MEANT.onset_s[-1] == pytest.approx(0.01 * MEANT.onset_s[-1] ** 2 / end, abs=1e-6)
    assert np.array_equal(played(MEANT, Errors.parse("spread=5,seed=9")).onset_s,
                          played(MEANT, Errors.parse("spread=5,seed=9")).onset_s)  # fmt: skip
    assert np.ptp(played(MEANT, Errors.parse("touch=20%")).velocity) > np.ptp(MEANT.velocity)


@pytest.mark.parametrize("text", ["late", "late=x", "swing=3", "spread=900", "miss=200%"])
def test_what_no_error_is_is_said(text: str) -> None:
    with pytest.raises(InputError):
        Errors.parse(text)


def test_a_take_comes_back_within_a_millisecond(tmp_path: Path) -> None:
    """Through the simulated port, the MIDI file, and the file read again."""
    events = taken(SimulatedKit(played(MEANT, Errors(late_ms=5, spread_ms=9)), KEYS, pace=0.0), None)
    strokes = [e for e in events if e.value]
    assert len(strokes) == len(MEANT)
    (tmp_path / "take.mid").write_bytes(take_midi([*events, MidiEvent(0.5, "control", 4, 90)]))
    now, found = 0.0, []
    for message in mido.MidiFile(tmp_path / "take.mid"):
        now += message.time
        if message.type == "note_on" and message.velocity:
            found.append((now, message.note, message.velocity))
    assert len(found) == len(strokes)
    for (time_s, note, velocity), event in zip(sorted(found), sorted(strokes), strict=True):
        assert abs(time_s - event.time_s) < 0.001 and (note, velocity) == (event.number, event.value)


def test_taking_ends_when_it_is_stopped_and_after_its_time() -> None:
    stop = threading.Event()
    stop.set()
    assert taken(SimulatedKit(MEANT, KEYS), None, stop) == []
    some = taken(SimulatedKit(MEANT, KEYS, pace=0.0), 1.0)
    assert some and max(e.time_s for e in some) < 1.0


def test_a_flood_is_refused() -> None:
    class Flood:
        name, simulated = "flood", True

        def events(self, stopped: object) -> object:
            return (MidiEvent(0.0, "note", 38, 90) for _ in range(MOST_EVENTS + 5))

    with pytest.raises(InputError, match="no playing"):
        taken(Flood(), None)  # type: ignore[arg-type]


def test_recording_without_a_window(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    take = tmp_path / "take.mid"
    (tmp_path / "a.grid.txt").write_text(
        "tempo 90\nhat_closed x-x-x-x-x-x-x-x-\nsnare ----X-------X---\nkick X-------X-x---X-\n"
    )
    words = ["--at-once", "--seconds", "10", "--plays", str(tmp_path / "a.grid.txt"), "--errors", "spread=4"]
    assert main(["record", str(take), *words]) == 0
    assert "strokes" in capsys.readouterr().out
    assert main(["listen", str(take)]) == 0
    assert "90" in capsys.readouterr().out
    assert main(["record", str(tmp_path / "t.wav"), "--seconds", "2", "--from", "simulated"]) == 0
    assert soundfile.info(tmp_path / "t.wav").duration == pytest.approx(2.0)
    assert main(["ports", "--simulate"]) == 0 and "simulated" in capsys.readouterr().out
    for bad in (["t.mid", "--seconds", "0"], ["t.mid", "--errors", "late=?"], ["t.wav", "--from", "a microphone"]):
        assert main(["record", str(tmp_path / f"no-{bad[0]}"), *bad[1:]]) == 2
        assert not (tmp_path / f"no-{bad[0]}").exists()


class Port:
    def __init__(self, client_name: str, name: str) -> None:
        self.client_name, self.name = client_name, name


def fake_alsa(events: list[object]) -> types.ModuleType:
    """A stand-in with the few names of the package that are used."""
    module = types.ModuleType("alsa_midi")

    class NoteOnEvent:
        def __init__(self, note: int, velocity: int, time: float) -> None:
            self.note, self.velocity, self.time = note, velocity, time

    class NoteOffEvent(NoteOnEvent):
        pass

    class ControlChangeEvent:
        def __init__(self, param: int, value: int, time: float) -> None:
            self.param, self.value, self.time = param, value, time

    class PortExitEvent:
        time = None

    class Client:
        waiting: ClassVar[list[object]] = events

        def __init__(self, name: str) -> None:
            self.closed = False

        def list_ports(self, **_ways: bool) -> list[Port]:
            return [Port("Yard kit", "pads"), Port("Other", "keys")]

        def create_queue(self, name: str) -> "Client":
            return self

        def create_port(self, name: str, **_ways: object) -> "Client":
            return self

        def connect_from(self, port: Port) -> None: ...

        def start(self) -> None: ...

        def drain_output(self) -> None: ...

        def close(self) -> None: ...

        def event_input(self, timeout: float) -> object:
            return self.waiting.pop(0) if self.waiting else None

    class Caps:
        WRITE, SUBS_WRITE = 1, 2

    made = {"SequencerClient": Client, "PortCaps": Caps, "Error": RuntimeError, "NoteOnEvent": NoteOnEvent,
            "NoteOffEvent": NoteOffEvent, "ControlChangeEvent": ControlChangeEvent,
            "PortExitEvent": PortExitEvent, "PortUnsubscribedEvent": PortExitEvent}  # fmt: skip
    for name, value in made.items():
        setattr(module, name, value)
    return module


def test_ports_of_the_sequencer_are_named_and_read(monkeypatch: pytest.MonkeyPatch) -> None:
    waiting: list[object] = []
    module = fake_alsa(waiting)
    monkeypatch.setitem(sys.modules, "alsa_midi", module)
    monkeypatch.setattr(alsa, "SEQUENCER", Path("/"))
    assert alsa.midi_port_names(output=False) == ["Yard kit: pads", "Other: keys"]
    with pytest.raises(InputError, match="no MIDI port"):
        alsa.AlsaInput("piano")
    with pytest.raises(InputError, match="more than one"):
        alsa.AlsaInput(": ")
    waiting += [module.NoteOnEvent(38, 90, 0.5), None, module.ControlChangeEvent(4, 127, 0.6), module.PortExitEvent()]
    found = []
    with pytest.raises(OSError, match="went away"):
        for event in alsa.AlsaInput("yard").events(lambda: False):
            found.append(event)
    assert found == [MidiEvent(0.5, "note", 38, 90), MidiEvent(0.6, "control", 4, 127)]


def test_without_the_package_or_a_sequencer_it_is_said(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(alsa, "SEQUENCER", Path("/nowhere"))
    with pytest.raises(InputError, match="no ALSA sequencer"):
        alsa.midi_port_names(output=True)
    monkeypatch.setitem(sys.modules, "alsa_midi", None)
    with pytest.raises(InputError, match="alsa-midi"):
        alsa.midi_port_names(output=True)
