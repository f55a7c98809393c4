"""A recording cut into its hits and played anew: files and a kit of its pieces, or another groove on its sounds."""

import io
from dataclasses import dataclass
from itertools import pairwise

import mido
import numpy as np
from numpy.typing import NDArray

from ghoststep.feel.ornaments import spelled_out
from ghoststep.feel.perform import perform
from ghoststep.music.errors import InputError
from ghoststep.music.groove import Groove
from ghoststep.music.kit import VOICES
from ghoststep.music.performance import Performance
from ghoststep.session.document.document import Document, Recording
from ghoststep.sound.slices import Slice, Struck, chosen, cut, replayed, together

LOWEST_KEY, HIGHEST_KEY = 24, 127
_DIVISION = 960
_LEAST_SPEED, _MOST_SPEED = 0.25, 4.0


@dataclass(frozen=True)
class Sliced:
    """A recording with its pieces, and what is to be told of them."""

    recording: Recording
    slices: tuple[Slice, ...]
    remarks: tuple[str, ...] = ()


def sliced(document: Document) -> Sliced:
    """The pieces of a document's recording at the hits of its listening, corrections included.

    Raises
    ------
    InputError
        Where there is no recording, or nothing was heard in it.
    """
    recording, listening = document.recording, document.listening
    if recording is None or listening is None:
        raise InputError("There is no recording here that could be cut: give a sound file that was listened to.")
    hits = [h for h in listening.explained.groove.pattern.hits if h.origin is not None]
    moments = [h.origin.time_s for h in hits if h.origin is not None]
    struck = together(moments, [h.voice for h in hits], [h.velocity for h in hits])
    slices = tuple(cut(recording.samples, recording.rate, struck))
    if not slices:
        raise InputError(f"No hit was heard in {recording.name}, so there is nowhere to cut it.")
    return Sliced(recording, slices)


def piece_name(number: int, piece: Slice) -> str:
    """The name of a piece's file: its number and its voices."""
    return f"{number + 1:03}-{'+'.join(name for name, _ in piece.struck.strokes)}.wav"


def pieces_sfz(found: Sliced) -> str:
    """A kit that plays the pieces, one a key from LOWEST_KEY on; a piece is ended by the next."""
    lines = ["// The pieces of a recording, one a key.", "<global> loop_mode=one_shot amp_veltrack=0 group=1 off_by=1"]
    for number, piece in enumerate(found.slices[: _keys()]):
        lines.append(f"<region> sample={piece_name(number, piece)} key={LOWEST_KEY + number}")
    return "\n".join(lines) + "\n"


def pieces_midi(found: Sliced, bpm: float) -> bytes:
    """A MIDI file that triggers the pieces as they lie in the recording, at a tempo."""
    track = mido.MidiTrack([mido.MetaMessage("set_tempo", tempo=mido.bpm2tempo(bpm))])
    rows = []
    tick_s = 60 / bpm / _DIVISION
    for number, piece in enumerate(found.slices[: _keys()]):
        begin, end = (round(at / found.recording.rate / tick_s) for at in (piece.start, piece.end))
        key = LOWEST_KEY + number
        velocity = max(v for _, v in piece.struck.strokes)
        rows += [(begin, 1, key, velocity), (max(end, begin + 1), 0, key, 0)]
    now = 0
    for at, on, key, velocity in sorted(rows):
        kind = "note_on" if on else "note_off"
        track.append(mido.Message(kind, channel=9, note=key, velocity=velocity, time=at - now))
        now = at
    out = io.BytesIO()
    mido.MidiFile(type=0, ticks_per_beat=_DIVISION, tracks=[track]).save(file=out)
    return out.getvalue()


def _keys() -> int:
    return HIGHEST_KEY - LOWEST_KEY + 1


def pieces_words(found: Sliced) -> tuple[str, ...]:
    """What is to be told of a recording with more pieces than there are keys."""
    over = len(found.slices) - _keys()
    return (f"the SFZ and MIDI files have the first {_keys()} pieces; {over} more are files only",) if over > 0 else ()


def piece_samples(found: Sliced, piece: Slice) -> NDArray[np.float32]:
    """The samples of a piece, shape (n, channels), faded out over its last milliseconds."""
    out = found.recording.samples[piece.start : piece.end].copy()
    fade = min(len(out), round(0.002 * found.recording.rate))
    out[len(out) - fade :] *= np.linspace(1, 0, fade, dtype=np.float32)[:, None]
    return out


def replay(found: Sliced, recorded: Groove, groove: Groove, *, pitch_tied: bool) -> tuple[NDArray[np.float32], str]:
    """The sounds of a recording played as another groove: samples (n, channels) and words.

    With the pitch tied to the tempo each piece is played as much faster as the groove is than the recording.

    Raises
    ------
    InputError
        Where that is more than four times as fast or as slow.
    """
    played = perform(spelled_out(groove)).ordered()
    wanted = _wanted(played)
    if not wanted:
        raise InputError("The groove has no hits to be played.")
    speed = groove.tempo.main_bpm / recorded.tempo.main_bpm if pitch_tied else 1.0
    if not _LEAST_SPEED <= speed <= _MOST_SPEED:
        raise InputError(
            f"{groove.tempo.main_bpm:.1f} BPM is {speed:.2f} times the recording's tempo; pieces are played"
            f" {_LEAST_SPEED:g} to {_MOST_SPEED:g} times as fast. Without --pitch tied any tempo will do."
        )
    lead_s = max(0.0, -wanted[0].time_s + 0.01) if wanted[0].time_s < 0.01 else 0.0
    places = [Struck(w.time_s + lead_s, w.strokes) for w in wanted]
    pieces = chosen(found.slices, places)
    last = found.slices[pieces[-1].number]
    rings_s = (last.end - last.onset) / found.recording.rate / speed
    length_s = max(lead_s + groove.length_s, places[-1].time_s + rings_s)
    if found.slices[-1] is last:  # what the recording ends in is not drawn out over the end of the groove
        length_s = places[-1].time_s + rings_s
    out = replayed(found.recording.samples, found.recording.rate, found.slices, pieces, length_s, speed=speed)
    other = sum(found.slices[p.number].struck.voices != w.voices for p, w in zip(pieces, places, strict=True))
    words = f"{len(pieces)} pieces of {len({p.number for p in pieces})} kinds"
    if other:
        words += f"; {other} of them in place of strokes that the recording has not"
    longest = max((b.time_s - a.time_s) * speed for a, b in pairwise(places)) if places[1:] else 0
    have = max(s.end - s.start for s in found.slices) / found.recording.rate
    if longest > 2 * have:
        words += "; gaps more than twice as long as any piece are filled with drawn-out tails, which is heard"
    return out, words


def _wanted(played: Performance) -> list[Struck]:
    names = [VOICES[v].name for v in played.voice]
    return together(played.onset_s.tolist(), names, played.velocity.tolist())
