"""MIDI files in: type 0, 1 and 2, SMPTE division, RIFF wrapping, running status, files without a tempo.

The bytes are checked before the parser sees them, since a few broken bytes can keep it busy for minutes.
"""

import io
import re
import struct
from dataclasses import dataclass
from pathlib import Path

import mido
import numpy as np
from numpy.typing import NDArray

from ghoststep.files.keymap import KeyMap
from ghoststep.files.safe import read_bytes, shown
from ghoststep.listen.bars.offset import whole_offset_s
from ghoststep.listen.fit.snap import grace_notes, snapped
from ghoststep.music.errors import InputError
from ghoststep.music.feel import Feel, Swing
from ghoststep.music.frame import Bars
from ghoststep.music.groove import Groove
from ghoststep.music.kit import VOICE_INDEX, VOICES
from ghoststep.music.meter import Meter
from ghoststep.music.pattern import MAX_BARS, Hit, Pattern
from ghoststep.music.performance import Performance
from ghoststep.music.time import TEMPO_LIMITS_BPM, TICKS_PER_QUARTER, TICKS_PER_WHOLE, TempoMap
from ghoststep.music.touch import Role, role_of

MAX_BYTES = 700_000  # some 80,000 notes with all that belongs to them; more is refused before it is parsed
MAX_NOTES = 80_000
MAX_MARKERS = 999
GROUPING = "grouping "  # text beside a time signature whose beats are grouped otherwise than is usual
RAMP = "ramp "  # text where a tempo begins to move evenly: "ramp 96.0 120.0 161280"
BAR_ONE = "bar 1"  # marker written where bar 1 does not stand at the start of the file
_DRUM_CHANNEL = 9


@dataclass(frozen=True)
class MidiTake:
    """The notes of a file: played positions in (fractional) ticks of ours from bar 1, and the file's own time line.

    `lead_s` is where bar 1 begins in the file. `tempo_known` and `meter_known` are False where the file states none and
    120 BPM in 4/4 was taken, as the standard says.
    """

    ticks: NDArray[np.float64]
    voice: NDArray[np.int16]
    velocity: NDArray[np.int16]
    tempo: TempoMap
    bars: Bars
    tempo_known: bool
    left_out: int  # notes on keys that the key map does not know
    meter_known: bool = False
    moved_lines: int = 0  # changes of meter so far off a bar line that no bar could end there, put to the nearest one
    lead_s: float = 0.0
    markers: tuple[tuple[float, str], ...] = ()  # positions in ticks from bar 1, and what stands there

    def performance(self) -> Performance:
        """The notes as moments in seconds of the file."""
        onset = np.maximum(self.tempo.seconds(self.ticks) + self.lead_s, 0.0)  # below 0 only by rounding
        return Performance.of(onset, self.voice, self.velocity, length_s=float(onset.max()) + 1.0)


def read_midi(path: Path, keys: KeyMap) -> MidiTake:
    """Read the drum notes of a MIDI file.

    Raises
    ------
    InputError
        Where it cannot be read, is no MIDI file, is broken, or holds no note the key map knows.
    """
    return parse_midi(read_bytes(path, limit_bytes=MAX_BYTES), shown(path), keys)


def parse_midi(data: bytes, name: str, keys: KeyMap) -> MidiTake:
    """`read_midi` on bytes.

    Raises
    ------
    InputError
        As `read_midi`.
    """
    data = _checked(data, name)
    try:
        file = mido.MidiFile(file=io.BytesIO(data), clip=True)
    except (OSError, EOFError, ValueError, IndexError, KeyError, mido.midifiles.meta.KeySignatureError) as error:
        raise InputError(f"{name} is a broken MIDI file: {_reason(error)}.") from error
    tracks = file.tracks
    if file.type == 2:  # independent sequences: the first that has notes is the one
        tracks = [t for t in tracks if any(m.type == "note_on" for m in t)][:1]
    messages = [(tick, m) for track in tracks for tick, m in _absolute(track)]
    return _taken(messages, file.ticks_per_beat, name, keys)


def _reason(error: Exception) -> str:
    own = not isinstance(error, IndexError | KeyError)  # those are words about our own lists
    text = str(error).strip().rstrip(".") if own else ""
    return text if text and len(text) < 80 else "it ends too early or holds bytes that mean nothing"


def _checked(data: bytes, name: str) -> bytes:
    """The bytes of the file proper, with a header that makes sense."""
    if data[:4] == b"RIFF" and data[8:12] == b"RMID":
        at = data.find(b"MThd")
        data = data[at:] if at >= 0 else b""
    if data[:4] != b"MThd" or len(data) < 14:
        raise InputError(f"{name} is no MIDI file: it does not begin like one.")
    _, kind, tracks, division = struct.unpack(">IHHH", data[4:14])
    if kind > 2:
        raise InputError(f"{name} is a MIDI file of type {kind}; types 0, 1 and 2 exist.")
    if not tracks:
        raise InputError(f"{name} is a MIDI file without a track.")
    if division == 0 or (division & 0x8000 and not division & 0xFF):
        raise InputError(f"{name} is a broken MIDI file: its division of time is 0.")
    # A delta time has at most four bytes; a long run of high bytes is damage that the parser is very slow on.
    if re.search(rb"[\x80-\xff]{400}", data):
        raise InputError(f"{name} is a broken MIDI file: it holds a long run of bytes that mean nothing.")
    return data


def _absolute(track: mido.MidiTrack) -> list[tuple[int, mido.Message]]:
    out, now = [], 0
    for message in track:
        now += message.time
        out.append((now, message))
    return out


def _taken(messages: list[tuple[int, mido.Message]], division: int, name: str, keys: KeyMap) -> MidiTake:
    tempo, per_quarter, known = _tempo(messages, division)
    scale = TICKS_PER_QUARTER / per_quarter
    start = _bar_one(messages, 4 * per_quarter)
    notes = [(t, m) for t, m in messages if m.type == "note_on" and m.velocity > 0]
    drums = [(t, m) for t, m in notes if m.channel == _DRUM_CHANNEL]
    # Some programs write drums on another channel; with none on channel 10 all notes are taken.
    chosen = drums or notes
    if not chosen:
        raise InputError(f"{name} holds no notes.")
    if len(chosen) > MAX_NOTES:
        raise InputError(f"{name} holds {len(chosen)} notes; at most {MAX_NOTES} can be read.")
    named = [(t, keys.voice_of(m.note), m.velocity) for t, m in chosen]
    found = sorted((t, VOICE_INDEX[v], velocity) for t, v, velocity in named if v is not None)
    if not found:
        raise InputError(f"{name} holds notes, but none on a key of the key map: is it a drum part?")
    ticks, voice, velocity = (np.array(c) for c in zip(*found, strict=True))
    bars, moved_lines, meter_known = _bars(messages, start, scale)
    lead_s = float(tempo.seconds(start * scale))
    if start:
        tempo = tempo.spliced(0, round(start * scale), 0)
    played = (ticks - start) * scale
    if float(played.max()) > bars.start_of(MAX_BARS + 1) or float(played.min()) < -bars.start_of(MAX_BARS + 1):
        raise InputError(f"{name} spans more than {MAX_BARS} bars; cut out the passage you want.")
    return MidiTake(
        played,
        voice.astype(np.int16),
        velocity.astype(np.int16),
        tempo,
        bars,
        known,
        len(named) - len(found),
        meter_known,
        moved_lines,
        lead_s,
        _markers(messages, start, scale),
    )


def _markers(messages: list[tuple[int, mido.Message]], start: int, scale: float) -> tuple[tuple[float, str], ...]:
    """The markers of a file, in order, but ours for bar 1; the last one at each position."""
    found = {t: m.text.strip() for t, m in messages if m.type == "marker" and m.text.strip().lower() != BAR_ONE}
    return tuple(((t - start) * scale, text) for t, text in sorted(found.items())[:MAX_MARKERS] if text)


def _bar_one(messages: list[tuple[int, mido.Message]], bar: float) -> int:
    """Where bar 1 begins: at our own marker, else at the first time signature, since each begins a bar.

    Where that stands a bar of 4/4 (`bar` ticks of the file) or more into the file, 4/4 holds before, as the standard
    says.
    """
    marked = next((t for t, m in messages if m.type == "marker" and m.text.strip().lower() == BAR_ONE), None)
    if marked is not None:
        return marked
    first = min((t for t, m in messages if _sensible_meter(m)), default=0)
    return first if first < bar else 0


def _bars(messages: list[tuple[int, mido.Message]], start: int, scale: float) -> tuple[Bars, int, bool]:
    """The file's bar lines, how many of its changes of meter were moved to one, and whether it states any.

    A time signature begins a bar: where it stands on no bar line, the bar before ends there, if that leaves a bar that
    can be written. A grouping that we wrote beside a signature is taken from there.
    """
    groups = {t: m.text for t, m in messages if m.type == "text" and m.text.startswith(GROUPING)}
    signatures: dict[int, Meter] = {}
    for tick, m in sorted(((t, m) for t, m in messages if _sensible_meter(m)), key=lambda x: x[0]):
        signatures[tick] = _grouped(Meter(m.numerator, m.denominator), groups.get(tick, ""))
    before = [t for t in sorted(signatures) if t <= start]
    rows = {1: signatures[before[-1]] if before else Meter()}
    bars, moved = Bars(rows[1]), 0
    for tick in sorted(t for t in signatures if t > start):
        spot = bars.spot_at(round((tick - start) * scale))
        near = spot.bar + (2 * spot.tick >= bars.length_of(spot.bar))
        cut = _meter_lasting(spot.tick)
        if cut is not None and spot.bar < MAX_BARS:
            rows[spot.bar], near = cut, spot.bar + 1
        elif spot.tick:
            moved += 1
        if near > 1 and near <= MAX_BARS:
            rows[near] = signatures[tick]
            bars = Bars.of(rows)
    return bars, moved, bool(signatures)


def _meter_lasting(ticks: int) -> Meter | None:
    """The meter of a bar of that length, in the largest unit that fits; None where none does (or for 0)."""
    for unit in (4, 8, 16, 32):
        count, rest = divmod(ticks, TICKS_PER_WHOLE // unit)
        if not rest and 1 <= count <= 64:
            return Meter(count, unit)
    return None


def _grouped(meter: Meter, text: str) -> Meter:
    try:
        return Meter.parse(f"{meter} {text.removeprefix(GROUPING).strip()}")
    except InputError:  # a text of somebody else's that begins alike
        return meter


def _sensible_meter(message: mido.Message) -> bool:
    return (
        message.type == "time_signature"
        and 1 <= message.numerator <= 64
        and message.denominator in (1, 2, 4, 8, 16, 32)
    )


def _tempo(messages: list[tuple[int, mido.Message]], division: int) -> tuple[TempoMap, float, bool]:
    """The tempo map in our ticks, file ticks to a quarter, and whether the file states a tempo."""
    if division < 0:  # SMPTE: frames a second and ticks a frame; a quarter is then half a second by our choice
        frames = {-29: 29.97}.get(division >> 8, float(-(division >> 8)))
        return TempoMap.constant(120), frames * (division & 0xFF) / 2, False
    changes: dict[int, float] = {}
    low, high = TEMPO_LIMITS_BPM
    for tick, message in sorted(((t, m) for t, m in messages if m.type == "set_tempo"), key=lambda x: x[0]):
        if message.tempo:
            changes[round(tick * TICKS_PER_QUARTER / division)] = min(max(60e6 / message.tempo, low), high)
    known = bool(changes)
    changes.setdefault(0, 120.0)
    parts = [(tick, bpm, bpm) for tick, bpm in changes.items()]
    return TempoMap.of(_ramped(parts, messages, division)), division, known


Parts = list[tuple[int, float, float]]


def _ramped(parts: Parts, messages: list[tuple[int, mido.Message]], division: int) -> Parts:
    """The parts with the steps of each ramp that we wrote as one again, if they still are what it was cut into."""
    for tick, m in messages:
        if m.type != "text" or not m.text.startswith(RAMP):
            continue
        words = m.text.split()
        try:
            bpm, to, length = float(words[1]), float(words[2]), int(words[3])
            ramp = TempoMap((0, length), (bpm, to), (to, to))
        except (ValueError, IndexError):  # a text of somebody else's that begins alike
            continue
        start = round(tick * TICKS_PER_QUARTER / division)
        here = TempoMap.of(parts)
        ends = np.array([0.0, 0.25, 0.5, 0.75, 1.0]) * length
        played = here.seconds(start + ends) - here.seconds(start)
        if np.abs(played - ramp.seconds(ends)).max() < 0.002:
            inside = [p for p in parts if not start <= p[0] < start + length]
            parts = [*inside, (start, bpm, to)]
            if not any(p[0] == start + length for p in parts):
                parts.append((start + length, to, to))
    return parts


def groove_of(take: MidiTake, name: str = "") -> Groove:
    """The file as it is written: its own tempo and bars; each note on its nearest spot, the rest kept as deviation."""
    ticks, tempo, frame = take.ticks, take.tempo, take.bars
    bar = frame.length_of(1)
    if lead := bars_before(take):
        ticks, frame = ticks + lead * bar, frame.inserted(1, [frame.first] * lead)
        tempo = tempo.spliced(0, 0, lead * bar)
    onset = tempo.seconds(ticks)
    quarter_s = np.array([tempo.tick_seconds(t) for t in ticks]) * TICKS_PER_QUARTER
    graces = grace_notes(onset, [VOICES[v].group for v in take.voice], take.velocity)
    main = [i for i in range(len(onset)) if i not in graces]
    offset_s = whole_offset_s(Performance.of(onset, take.voice, take.velocity, length_s=0.0), ticks, tempo, frame, main)
    meant = tempo.to_ticks(onset - offset_s) if offset_s else ticks
    spots = snapped(meant, Swing(), "straight", quarter_s=quarter_s, bars=frame).ticks
    for grace, leading in graces.items():
        spots[grace] = spots[leading]
    spots = np.maximum(spots, 0)
    hits = []
    for i, spot in enumerate(spots):
        velocity = int(np.clip(take.velocity[i], 1, 127))
        late_ms = 1000 * (float(onset[i]) - float(tempo.seconds(spot)))
        role = Role.GHOST if i in graces else role_of(velocity)
        hits.append(
            Hit(int(spot), VOICES[take.voice[i]].name, velocity, role, offset_ms=_tidy(late_ms), grace=i in graces)
        )
    bars = frame.spot_at(max(h.position_ticks for h in hits)).bar
    pattern = Pattern(tuple(hits), frame.first, bars, 16, meter_changes=frame.changes)
    return Groove(pattern, Feel(), tempo, name)


def bars_before(take: MidiTake) -> int:
    """How many bars are put before bar 1, since notes stand well ahead of it."""
    bar = take.bars.length_of(1)
    return int(np.ceil(-take.ticks.min() / bar)) if take.ticks.min() < -0.5 * bar else 0


def _tidy(ms: float) -> float:
    """A time in as many digits as mean something in a file of notes: hundredths of a millisecond."""
    return round(ms, 2) + 0.0
