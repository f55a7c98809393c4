"""How a document is written as JSON: one struct for each value, in the units its names state.

Every struct refuses fields it does not know, so a damaged file is noticed; a newer version is told by its number
before anything else is read. docs/project-format.md describes the same for people.
"""

from typing import Any

import msgspec

from ghoststep.listen.explain import Explained, TempoReading
from ghoststep.music.feel import Feel, Swing
from ghoststep.music.groove import Groove
from ghoststep.music.meter import Meter
from ghoststep.music.pattern import Hit, Origin, Pattern
from ghoststep.music.time import TempoMap
from ghoststep.music.touch import Role
from ghoststep.session.document import Document, Listening

VERSION = 1


class HitRow(msgspec.Struct, forbid_unknown_fields=True, omit_defaults=True):
    at: int
    voice: str
    velocity: int
    role: Role
    stroke: str = "plain"
    limb: str = ""
    offset_ms: float = 0.0
    grace: bool = False
    heard_s: float | None = None
    confidence: float | None = None


class GrooveRow(msgspec.Struct, forbid_unknown_fields=True):
    name: str
    meter: tuple[int, int, tuple[int, ...]]
    bars: int
    grid: int
    lane_grids: dict[str, int]
    tempo: list[tuple[int, float]]
    swing: tuple[int, float]
    lean_ms: dict[str, float]
    loose_ms: float
    take: int
    hits: list[HitRow]


class ReadingRow(msgspec.Struct, forbid_unknown_fields=True):
    tempo_bpm: float
    meter: tuple[int, int, tuple[int, ...]]
    share: float


class ListeningRow(msgspec.Struct, forbid_unknown_fields=True):
    groove: GrooveRow
    start_s: float
    source: list[int]
    swing_error: float
    loose_ms: dict[str, float]
    readings: list[ReadingRow]
    confidence: list[float]
    remarks: list[str]


class DocumentRow(msgspec.Struct, forbid_unknown_fields=True):
    version: int
    name: str
    groove: GrooveRow
    recording: str | None = None
    listening: ListeningRow | None = None


def groove_row(groove: Groove) -> GrooveRow:
    p, feel = groove.pattern, groove.feel
    return GrooveRow(
        groove.name, _meter_row(p.meter), p.bars, p.grid, dict(p.lane_grids),
        list(zip(groove.tempo.ticks, groove.tempo.bpm, strict=True)), (feel.swing.unit, feel.swing.ratio),
        dict(feel.lean_ms), feel.loose_ms, feel.take, [_hit_row(h) for h in p.hits],
    )  # fmt: skip


def groove_from(row: GrooveRow) -> Groove:
    pattern = Pattern(
        tuple(_hit(h) for h in row.hits), Meter(*row.meter), row.bars, row.grid, tuple(row.lane_grids.items())
    )
    feel = Feel(Swing(*row.swing), row.lean_ms, row.loose_ms, row.take)
    return Groove(pattern, feel, TempoMap(tuple(t for t, _ in row.tempo), tuple(b for _, b in row.tempo)), row.name)


def _meter_row(meter: Meter) -> tuple[int, int, tuple[int, ...]]:
    return meter.numerator, meter.denominator, meter.groups


def _hit_row(h: Hit) -> HitRow:
    heard, sure = (h.origin.time_s, h.origin.confidence) if h.origin else (None, None)
    return HitRow(h.position_ticks, h.voice, h.velocity, h.role, h.stroke, h.limb, h.offset_ms, h.grace, heard, sure)


def _hit(row: HitRow) -> Hit:
    origin = None if row.heard_s is None else Origin(row.heard_s, row.confidence or 0.0)
    return Hit(
        row.at, row.voice, row.velocity, row.role, row.stroke, row.limb, row.offset_ms, row.grace, origin
    )  # fmt: skip


def document_row(document: Document, recording: str | None) -> DocumentRow:
    heard = document.listening
    return DocumentRow(
        VERSION, document.name, groove_row(document.groove), recording, _listening_row(heard) if heard else None
    )


def document_from(row: DocumentRow) -> Document:
    """The document without its recording."""
    return Document(row.name, groove_from(row.groove), None, _listening(row.listening) if row.listening else None)


def _listening_row(heard: Listening) -> ListeningRow:
    e = heard.explained
    rows = [ReadingRow(r.tempo_bpm, _meter_row(r.meter), r.share) for r in e.readings]
    sure, remarks = list(heard.confidence), list(heard.remarks)
    return ListeningRow(groove_row(e.groove), e.start_s, list(e.source), e.swing_error, e.loose_ms, rows, sure, remarks)


def _listening(row: ListeningRow) -> Listening:
    readings = tuple(TempoReading(r.tempo_bpm, Meter(*r.meter), r.share) for r in row.readings)
    groove = groove_from(row.groove)
    explained = Explained(groove, row.start_s, tuple(row.source), row.swing_error, row.loose_ms, readings)
    return Listening(explained, tuple(row.confidence), tuple(row.remarks))


def encoded(row: DocumentRow) -> bytes:
    return msgspec.json.format(msgspec.json.encode(row), indent=1)


def decoded(data: bytes) -> DocumentRow:
    """Raises msgspec.ValidationError (with the place) or msgspec.DecodeError."""
    return msgspec.json.decode(data, type=DocumentRow)


def version_of(data: bytes) -> Any:
    """The version number of a project.json, whatever else it holds."""

    class Head(msgspec.Struct):
        version: int

    return msgspec.json.decode(data, type=Head).version
