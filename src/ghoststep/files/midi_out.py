"""MIDI files out: type 0 or 1, any division up to 20160, at which nothing is lost."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from itertools import pairwise
from pathlib import Path
from typing import BinaryIO

import mido
import numpy as np

from ghoststep.feel.perform import perform
from ghoststep.files.keymap import KeyMap
from ghoststep.files.midi_in import BAR_ONE, GROUPING, RAMP
from ghoststep.files.safe import write_whole
from ghoststep.music.errors import InputError
from ghoststep.music.groove import Groove
from ghoststep.music.kit import VOICES
from ghoststep.music.meter import Meter
from ghoststep.music.performance import Performance
from ghoststep.music.time import TICKS_PER_QUARTER, TempoMap

DEFAULT_DIVISION = 960
LEAD_WORDS = "begins with one empty bar, since a hit is earlier than bar 1"
_CHANNEL = 9
_MAX_DELTA = 1 << 28
_RAMP_STEP = TICKS_PER_QUARTER // 8


@dataclass(frozen=True)
class Written:
    """What was written: notes, and whether an empty bar leads in because a hit is earlier than bar 1."""

    notes: int
    lead_bars: int


def write_midi(
    path: Path,
    groove: Groove,
    keys: KeyMap,
    *,
    division: int = DEFAULT_DIVISION,
    kind: int = 1,
    markers: Sequence[tuple[int, str]] = (),
) -> Written:
    """Write the performance of a groove; see `midi_file`."""
    written, write = midi_file(groove, keys, division=division, kind=kind, markers=markers)
    write_whole(path, write)
    return written


def midi_file(
    groove: Groove,
    keys: KeyMap,
    *,
    division: int = DEFAULT_DIVISION,
    kind: int = 1,
    markers: Sequence[tuple[int, str]] = (),
) -> tuple[Written, Callable[[BinaryIO], object]]:
    """The performance of a groove as a MIDI file: what is in it, and what writes it into an open file.

    Every hit stands on the tick nearest to its moment. A hit ahead of bar 1 keeps its moment too: the file then begins
    with one empty bar, and a marker says where bar 1 is.

    Parameters
    ----------
    markers
        Names of sections, with the ticks (of the groove) where they begin.

    Raises
    ------
    InputError
        For a division outside 24 to 20160, another type than 0 or 1, or where it cannot be written.
    """
    if not 24 <= division <= TICKS_PER_QUARTER:
        raise InputError(f"{division} ticks to a quarter is outside 24 to {TICKS_PER_QUARTER}; 960 is usual.")
    if kind not in (0, 1):
        raise InputError(f"MIDI is written as type 0 or 1, not {kind}.")
    events, lead = _events(groove, keys, division)
    head = _head(groove, division, lead)
    ahead = lead * _lead_bar(groove)
    scale = division / TICKS_PER_QUARTER
    head += [(round((t + ahead) * scale), 0, mido.MetaMessage("marker", text=_latin(name))) for t, name in markers]
    end = round((lead * _lead_bar(groove) + groove.pattern.length_ticks) * division / TICKS_PER_QUARTER)
    file = mido.MidiFile(type=kind, ticks_per_beat=division)
    tracks = [head, events] if kind else [head + events]
    for messages in tracks:
        file.tracks.append(_track(messages, end))
    return Written(sum(m.type == "note_on" for _, _, m in events), lead), lambda stream: file.save(file=stream)


Timed = tuple[int, int, mido.Message | mido.MetaMessage]  # tick, rank at one tick, message


def _events(groove: Groove, keys: KeyMap, division: int) -> tuple[list[Timed], int]:
    performance = perform(groove).ordered()
    scale = division / TICKS_PER_QUARTER
    ticks = np.rint(groove.tempo.to_ticks(performance.onset_s) * scale).astype(np.int64)
    bar = round(_lead_bar(groove) * scale)
    lead = int(-(-max(0, -int(ticks.min(initial=0))) // bar))
    ticks += lead * bar
    held = _held_ticks(groove, performance, scale)
    note_keys = [keys.key_of(VOICES[v].name) for v in performance.voice]
    out: list[Timed] = [(0, 0, mido.MetaMessage("track_name", name=_latin(groove.name or "Drums")))]
    following: dict[int, int] = {}
    for i in range(len(performance) - 1, -1, -1):
        key, tick = note_keys[i], int(ticks[i])
        if key is None:
            continue
        length = min(held[i] or max(1, division // 8), max(1, following.get(key, 1 << 40) - tick))
        following[key] = tick
        velocity = int(performance.velocity[i])
        out.append((tick, 2, mido.Message("note_on", channel=_CHANNEL, note=key, velocity=velocity)))
        out.append((tick + length, 1, mido.Message("note_off", channel=_CHANNEL, note=key, velocity=64)))
    return out, lead


def _held_ticks(groove: Groove, performance: Performance, scale: float) -> list[int]:
    """How long a hit that is ended by hand or foot is held, 0 for the others."""
    ends = np.isfinite(performance.stops_s)
    both = groove.tempo.to_ticks(np.stack([performance.onset_s, np.where(ends, performance.stops_s, 0.0)]))
    return [max(1, round(t * scale)) if e else 0 for t, e in zip(both[1] - both[0], ends, strict=True)]


def _lead_bar(groove: Groove) -> int:
    """Ticks of a bar put before bar 1."""
    return groove.pattern.frame.length_of(1)


def _head(groove: Groove, division: int, lead: int) -> list[Timed]:
    """Meters with groupings that are not the usual ones, tempi, and ramps as steps with a text that names the ramp."""
    scale = division / TICKS_PER_QUARTER
    ahead = lead * _lead_bar(groove)
    out: list[Timed] = []
    frame = groove.pattern.frame
    for bar, meter in ((1, frame.first), *frame.changes):
        at = round((frame.start_of(bar) + ahead) * scale) if bar > 1 else 0
        if Meter(meter.numerator, meter.denominator) != meter:
            out.append((at, 0, mido.MetaMessage("text", text=GROUPING + "+".join(map(str, meter.groups)))))
        signature = mido.MetaMessage("time_signature", numerator=meter.numerator, denominator=meter.denominator)
        out.append((at, 0, signature))
    if lead:
        out.append((round(ahead * scale), 0, mido.MetaMessage("marker", text=BAR_ONE)))
    tempo = groove.tempo
    ends = (*tempo.ticks[1:], None)
    for (tick, bpm, to), end in zip(tempo.parts, ends, strict=True):
        at = round((tick + ahead) * scale) if tick else 0
        if end is None or bpm == to:
            out.append((at, 0, _tempo(bpm)))
        else:
            text = f"{RAMP}{bpm!r} {to!r} {end - tick}"
            out.append((round((tick + ahead) * scale), 0, mido.MetaMessage("text", text=text)))
            out += _steps(tempo, tick, end, ahead, division)
    return out


def _tempo(bpm: float) -> mido.MetaMessage:
    return mido.MetaMessage("set_tempo", tempo=min(max(round(60e6 / bpm), 1), 0xFFFFFF))


def _steps(tempo: TempoMap, start: int, end: int, ahead: int, division: int) -> list[Timed]:
    """A ramp as steps of a 32nd, each lasting exactly as long as the ramp takes over it."""
    scale = division / TICKS_PER_QUARTER
    edges = [*range(start, end, _RAMP_STEP), end]
    seconds = tempo.seconds(edges)
    out: list[Timed] = []
    for (a, b), (s0, s1) in zip(pairwise(edges), pairwise(seconds), strict=True):
        at = round((a + ahead) * scale) if a or ahead else 0
        out.append((at, 0, _tempo(60 * (b - a) / TICKS_PER_QUARTER / (float(s1) - float(s0)))))
    return out


def _track(messages: list[Timed], end: int) -> mido.MidiTrack:
    track, now = mido.MidiTrack(), 0
    for tick, _, message in sorted(messages, key=lambda x: x[:2]):
        if tick - now >= _MAX_DELTA:
            raise InputError("A rest in this groove is too long for a MIDI file: choose a smaller division.")
        track.append(message.copy(time=tick - now))
        now = tick
    track.append(mido.MetaMessage("end_of_track", time=max(0, end - now)))
    return track


def _latin(text: str) -> str:
    """Names in MIDI files are Latin-1; other letters become question marks."""
    return text.encode("latin-1", "replace").decode("latin-1")
