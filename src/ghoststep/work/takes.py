"""Takes from devices: what was played on an electronic kit as a MIDI file, what a microphone heard as sound."""

import io
from collections.abc import Sequence

import mido

from ghoststep.devices.midi_in import MidiEvent

_DIVISION, _BPM = 9600, 120  # what a file that states no tempo is read at; a tick is a twentieth of a millisecond
_TICKS_S = _DIVISION * _BPM / 60


def take_midi(events: Sequence[MidiEvent]) -> bytes:
    """A take as a MIDI file, its moments to a twentieth of a millisecond.

    It states no tempo, so that listening finds the one that was played.
    """
    track = mido.MidiTrack()
    now = 0
    for event in sorted(events):
        at = round(event.time_s * _TICKS_S)
        if event.kind == "note":
            kind = "note_on" if event.value else "note_off"
            message = mido.Message(kind, channel=9, note=event.number, velocity=event.value, time=at - now)
        else:
            message = mido.Message("control_change", channel=9, control=event.number, value=event.value, time=at - now)
        track.append(message)
        now = at
    out = io.BytesIO()
    mido.MidiFile(type=0, ticks_per_beat=_DIVISION, tracks=[track]).save(file=out)
    return out.getvalue()
