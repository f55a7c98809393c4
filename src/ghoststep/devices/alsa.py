"""MIDI ports by ALSA's sequencer: named ports, events timed by its queue and not by our threads."""

from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

from ghoststep.devices.midi_in import MidiEvent
from ghoststep.music.errors import InputError

SEQUENCER = Path("/dev/snd/seq")
_WAIT_S = 0.05


def _client() -> Any:
    """A client of the sequencer.

    Raises
    ------
    InputError
        Where there is no sequencer, or the package for it is missing.
    """
    try:
        import alsa_midi
    except (ImportError, OSError) as error:
        raise InputError("MIDI ports need the package alsa-midi, which is not installed here.") from error
    # The library would print of it on our error output.
    missing = InputError("There is no ALSA sequencer on this machine, so there are no MIDI ports.")
    if not SEQUENCER.exists():
        raise missing
    try:
        return alsa_midi.SequencerClient("Ghost Step")
    except alsa_midi.Error as error:
        raise missing from error


def midi_port_names(*, output: bool) -> list[str]:
    """The names of the ports that are written to (output) or read; an InputError where there is no sequencer."""
    client = _client()
    try:
        ports = client.list_ports(output=True) if output else client.list_ports(input=True)
        return [f"{p.client_name}: {p.name}" for p in ports]
    finally:
        client.close()


class AlsaInput:
    """A port of the sequencer that is read. Raises an InputError where there is none of that name."""

    simulated = False

    def __init__(self, name: str) -> None:
        import alsa_midi

        self._client = _client()
        ports = self._client.list_ports(input=True)
        found = [p for p in ports if name.lower() in f"{p.client_name}: {p.name}".lower()]
        if len(found) != 1:
            self._client.close()
            names = "; ".join(f"{p.client_name}: {p.name}" for p in (found or ports)) or "none"
            raise InputError(f"'{name}' is {'no' if not found else 'more than one'} MIDI port. There are: {names}.")
        self.name = f"{found[0].client_name}: {found[0].name}"
        self._queue = self._client.create_queue("take")
        self._port = self._client.create_port(
            "in", caps=alsa_midi.PortCaps.WRITE | alsa_midi.PortCaps.SUBS_WRITE, timestamping=True,
            timestamp_real=True, timestamp_queue=self._queue,
        )  # fmt: skip
        self._port.connect_from(found[0])

    def events(self, stopped: Callable[[], bool]) -> Iterator[MidiEvent]:
        """What comes in, with the queue's own times; an OSError where the port goes away."""
        import alsa_midi

        self._queue.start()
        self._client.drain_output()
        try:
            while not stopped():
                event = self._client.event_input(timeout=_WAIT_S)
                if isinstance(event, alsa_midi.PortUnsubscribedEvent | alsa_midi.PortExitEvent):
                    raise OSError(f"The MIDI port {self.name} went away.")
                found = _read(event)
                if found is not None:
                    yield found
        finally:
            self._client.close()


def _read(event: Any) -> MidiEvent | None:
    """A note or controller out of an event; None for all else."""
    import alsa_midi

    time_s = float(event.time) if event is not None and event.time is not None else 0.0
    if isinstance(event, alsa_midi.NoteOnEvent):
        return MidiEvent(time_s, "note", event.note, event.velocity)
    if isinstance(event, alsa_midi.NoteOffEvent):
        return MidiEvent(time_s, "note", event.note, 0)
    if isinstance(event, alsa_midi.ControlChangeEvent):
        return MidiEvent(time_s, "control", event.param, event.value)
    return None
