"""How a document is written as JSON: one struct for each value, in the units its names state.

Every struct refuses fields it does not know, so a damaged file is noticed; a newer version is told by its number
before anything else is read. docs/project-format.md describes the same for people.
"""

from dataclasses import asdict, replace
from typing import Any

import msgspec

from ghoststep.files.feel_file import PlayerRow, player_row, with_player
from ghoststep.files.lane_numbers import lanes_in, lanes_out
from ghoststep.files.old_versions import KEYS_SINCE, with_keys
from ghoststep.files.textgrid import parse_text
from ghoststep.files.textgrid_song_out import song_text
from ghoststep.listen.bars.explain import Explained, Passage
from ghoststep.listen.bars.reading import Click, Hints, TempoReading
from ghoststep.listen.corrections import Corrections, Fix, FixKind
from ghoststep.listen.strokes.perhaps import Perhaps
from ghoststep.music.errors import InputError
from ghoststep.music.feel import Feel, Swing
from ghoststep.music.form import Form
from ghoststep.music.groove import Groove
from ghoststep.music.kit import STROKE_INDEX, STROKE_NAMES, VOICE_INDEX, VOICE_NAMES, voice
from ghoststep.music.meter import Meter
from ghoststep.music.pattern import FIRST_OWN_KEY, MAX_TICKS, Hit, Origin, Pattern
from ghoststep.music.performance import Performance
from ghoststep.music.rules import GridPassage, Rules
from ghoststep.music.time import TempoMap, checked_tempo_bpm, step_ticks
from ghoststep.music.touch import Role
from ghoststep.music.unrolled import felt_by
from ghoststep.session.document.document import Document, Listening, Snapshot, Verdict
from ghoststep.session.document.judged import Judged
from ghoststep.session.form.exact import exact
from ghoststep.session.form.plain import without_keys
from ghoststep.session.language.forms.words import song

VERSION = 4
MAX_KEY = 1 << 62
MAX_MOMENT_S = 100_000.0


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
    heard_as: str = ""
    # From version 3 on.
    ornament: str = ""
    length_ticks: int = 0
    # From version 4 on.
    key: int = 0
    fixed: bool = False


class GrooveRow(msgspec.Struct, forbid_unknown_fields=True, omit_defaults=True):
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
    # From version 3 on.
    balance_db: dict[str, float] = {}
    passages: list[tuple[int, int, int]] = []
    levels: list[tuple[str, Role, int]] = []
    cycles: list[tuple[int, int]] = []
    linear: bool = False
    ring_over: bool = True
    # From version 4 on.
    meters: list[tuple[int, int, int, tuple[int, ...]]] = []  # bar, numerator, denominator, groups
    ramps: list[tuple[int, float]] = []  # tick of a tempo, tempo it moves to
    lane_passages: list[tuple[int, int, int, tuple[str, ...]]] = []
    player: PlayerRow = msgspec.field(default_factory=PlayerRow)
    restarts: list[tuple[int, int]] = []
    own_rounds: list[tuple[int, int]] = []


class ReadingRow(msgspec.Struct, forbid_unknown_fields=True):
    tempo_bpm: float
    meter: tuple[int, int, tuple[int, ...]]
    share: float
    downbeat_s: float | None = None
    why: str = ""


class HeardRow(msgspec.Struct, forbid_unknown_fields=True, omit_defaults=True):
    """A hit as it was heard, before corrections."""

    time_s: float
    voice: str
    velocity: int
    confidence: float
    stroke: str = "plain"


class FixRow(msgspec.Struct, forbid_unknown_fields=True, omit_defaults=True):
    kind: FixKind
    time_s: float
    voice: str
    to_voice: str = ""
    velocity: int = 0
    meant_s: float = 0.0


class HintsRow(msgspec.Struct, forbid_unknown_fields=True, omit_defaults=True):
    """What was said of the whole: before listening, or as a correction of it."""

    tempo_bpm: float | None = None
    meter: tuple[int, int, tuple[int, ...]] | None = None
    bars: int | None = None
    downbeat_s: float | None = None
    straight: bool | None = None
    click: tuple[float, float] | None = None  # BPM, and the second of one


class PerhapsRow(msgspec.Struct, forbid_unknown_fields=True):
    time_s: float
    voice: str
    velocity: int
    odds: float


class ListeningRow(msgspec.Struct, forbid_unknown_fields=True):
    groove: GrooveRow
    start_s: float
    source: list[int]
    swing_error: float
    loose_ms: dict[str, float]
    readings: list[ReadingRow]
    confidence: list[float]
    remarks: list[str]
    # From version 2 on; a project of version 1 has no corrections, and what was heard is what its groove says.
    passages: list[tuple[int, int, int]] = []
    lost_s: float | None = None
    length_s: float | None = None
    heard: list[HeardRow] | None = None
    hints: HintsRow = msgspec.field(default_factory=HintsRow)
    corrections: HintsRow = msgspec.field(default_factory=HintsRow)
    fixes: list[FixRow] = []
    closed_s: list[tuple[float, float]] = []
    cut: bool = False
    perhaps: list[PerhapsRow] = []
    by_click: bool = False


class VerdictRow(msgspec.Struct, forbid_unknown_fields=True):
    chosen: str
    among: tuple[str, ...]
    when: str


class JudgedRow(msgspec.Struct, forbid_unknown_fields=True, omit_defaults=True):
    """What the check is told."""

    player: str = Judged().player
    way: str = Judged().way
    setup: str = Judged().setup
    styles: tuple[str, ...] = ()
    meant: tuple[str, ...] = ()
    stands: tuple[tuple[str, float, float], ...] = ()


class DocumentRow(msgspec.Struct, forbid_unknown_fields=True):
    version: int
    name: str
    groove: GrooveRow
    recording: str | None = None
    listening: ListeningRow | None = None
    # From version 3 on.
    snapshots: list[tuple[str, GrooveRow]] = []
    verdicts: list[VerdictRow] = []
    # From version 4 on.
    next_key: int = FIRST_OWN_KEY
    judged: JudgedRow = msgspec.field(default_factory=JudgedRow)
    song: str = ""  # parts, sections and form, as a text grid says them
    kept_songs: dict[str, str] = {}  # the same of kept versions, by their names
    kit: str = ""  # what plays it, by name or place


def groove_row(groove: Groove) -> GrooveRow:
    p, feel = groove.pattern, groove.feel
    return GrooveRow(
        groove.name, _meter_row(p.meter), p.bars, p.grid, dict(p.lane_grids),
        list(zip(groove.tempo.ticks, groove.tempo.bpm, strict=True)), (feel.swing.unit, feel.swing.ratio),
        dict(feel.lean_ms), feel.loose_ms, feel.take, [_hit_row(h) for h in p.hits], dict(feel.balance_db),
        [(g.start_ticks, g.end_ticks, g.grid) for g in p.passages if not g.voices], list(p.rules.levels),
        lanes_out(p.rules.cycles), p.rules.linear, p.rules.ring_over,
        [(bar, *_meter_row(meter)) for bar, meter in p.meter_changes],
        [(tick, to) for tick, bpm, to in groove.tempo.parts if bpm != to],
        [(g.start_ticks, g.end_ticks, g.grid, g.voices) for g in p.passages if g.voices],
        player_row(feel),
        lanes_out(p.rules.restarts), lanes_out(p.rules.own_rounds),
    )  # fmt: skip


def groove_from(row: GrooveRow) -> Groove:
    passages = tuple(GridPassage(*p) for p in row.passages)
    passages += tuple(GridPassage(start, end, grid, names) for start, end, grid, names in row.lane_passages)
    cycles, restarts, own = (lanes_in(rows) for rows in (row.cycles, row.restarts, row.own_rounds))
    rules = Rules(tuple(row.levels), cycles, row.linear, row.ring_over, restarts, own)
    hits = tuple(_hit(h) for h in row.hits)
    lane_grids = tuple(row.lane_grids.items())
    changes = tuple((bar, Meter(above, below, groups)) for bar, above, below, groups in row.meters)
    pattern = Pattern(hits, Meter(*row.meter), row.bars, row.grid, lane_grids, passages, rules, changes)
    if passages and max(p.end_ticks for p in passages) > MAX_TICKS:
        raise InputError("A passage with its own grid ends behind what a pattern can hold.")
    plain = Feel(Swing(*row.swing), row.lean_ms, row.loose_ms, row.take, row.balance_db)
    feel = with_player(plain, row.player)
    return Groove(pattern, feel, _tempo(row), row.name)


def _tempo(row: GrooveRow) -> TempoMap:
    ticks, bpm = tuple(t for t, _ in row.tempo), tuple(b for _, b in row.tempo)
    ramps = dict(row.ramps)
    if not set(ramps) <= set(ticks) or any(t > MAX_TICKS for t in ticks):
        raise InputError("A tempo stands where no groove is.")
    return TempoMap(ticks, bpm, tuple(ramps.get(t, b) for t, b in row.tempo))


def _meter_row(meter: Meter) -> tuple[int, int, tuple[int, ...]]:
    return meter.numerator, meter.denominator, meter.groups


def _hit_row(h: Hit) -> HitRow:
    heard, sure, name = (h.origin.time_s, h.origin.confidence, h.origin.voice) if h.origin else (None, None, "")
    return HitRow(
        h.position_ticks, h.voice, h.velocity, h.role, h.stroke, h.limb, h.offset_ms, h.grace, heard, sure, name,
        h.ornament, h.length_ticks, h.key, h.fixed,
    )  # fmt: skip


def _hit(row: HitRow) -> Hit:
    origin = None if row.heard_s is None else Origin(row.heard_s, row.confidence or 0.0, row.heard_as)
    if not 0 <= row.key < MAX_KEY:
        raise InputError(f"A hit has the key {row.key}, which is none.")
    return Hit(
        row.at, row.voice, row.velocity, row.role, row.stroke, row.limb, row.offset_ms, row.grace, origin,
        row.ornament, row.length_ticks, row.key, fixed=row.fixed,
    )  # fmt: skip


def document_row(document: Document, recording: str | None) -> DocumentRow:
    heard = document.listening
    return DocumentRow(
        VERSION,
        document.name,
        groove_row(document.groove),
        recording,
        _listening_row(heard) if heard else None,
        [(s.name, groove_row(s.groove)) for s in document.snapshots],
        [VerdictRow(v.chosen, v.among, v.when) for v in document.verdicts],
        document.next_key,
        JudgedRow(**asdict(document.judged)),
        song_text(document.form, document.groove) if document.form else "",
        {s.name: song_text(s.form, s.groove) for s in document.snapshots if s.form},
        document.kit,
    )


def document_from(row: DocumentRow) -> Document:
    """The document without its recording.

    Raises
    ------
    InputError
        Where a value is none that can be.
    """
    listening = _listening(row.listening) if row.listening else None
    warnings: list[str] = []
    snapshots = tuple(
        Snapshot(name, *_with_form(row.kept_songs.get(name, ""), groove_from(groove), f"'{name}'", warnings))
        for name, groove in row.snapshots
    )
    verdicts = tuple(Verdict(v.chosen, v.among, v.when) for v in row.verdicts)
    if not FIRST_OWN_KEY <= row.next_key < MAX_KEY:
        raise InputError(f"The next key {row.next_key} is none.")
    judged = Judged(**msgspec.structs.asdict(row.judged))
    groove, form = _with_form(row.song, groove_from(row.groove), "the groove", warnings)
    document = Document(
        row.name, groove, None, listening, snapshots, verdicts, row.next_key, judged, form, tuple(warnings),
        row.kit,
    )  # fmt: skip
    return document if row.version >= KEYS_SINCE else with_keys(document)


def _with_form(text: str, groove: Groove, whose: str, warnings: list[str]) -> tuple[Groove, Form | None]:
    """A groove and its form; without the form, and a warning more, where that cannot be read: the hits are all there.

    Where the form comes to other hits, those of the groove are kept, as what single bars of the form have.
    """
    if not text:
        return groove, None
    try:
        form, sung = parse_text(text, "its form")
        if form is not None and sung.pattern.bars != groove.pattern.bars:
            raise InputError(f"it has {sung.pattern.bars} bars and the groove {groove.pattern.bars}.")
        if form is not None and without_keys(sung.pattern).hits != without_keys(groove.pattern).hits:
            form = exact(form, song(replace(form, singles=()), groove), groove)
    except InputError as error:
        warnings.append(f"The form of {whose} could not be read, and was left out; every hit is there ({error})")
        return groove, None
    return felt_by(form, groove), form


def _listening_row(heard: Listening) -> ListeningRow:
    e, played = heard.explained, heard.heard
    return ListeningRow(
        groove=groove_row(e.groove),
        start_s=e.start_s,
        source=list(e.source),
        swing_error=e.swing_error,
        loose_ms=e.loose_ms,
        readings=[ReadingRow(r.tempo_bpm, _meter_row(r.meter), r.share, r.downbeat_s, r.why) for r in e.readings],
        confidence=list(heard.confidence),
        remarks=list(heard.remarks),
        passages=[(p.start_ticks, p.end_ticks, p.grid) for p in e.passages],
        lost_s=e.lost_s,
        length_s=played.length_s,
        heard=[
            HeardRow(float(t), VOICE_NAMES[v], int(x), c, STROKE_NAMES[k])
            for t, v, x, c, k in zip(
                played.onset_s, played.voice, played.velocity, heard.sure, played.stroke, strict=True
            )
        ],
        hints=_hints_row(heard.hints),
        corrections=_hints_row(heard.corrections.hints(Hints())),
        fixes=[FixRow(f.kind, f.time_s, f.voice, f.to_voice, f.velocity, f.meant_s) for f in heard.corrections.fixes],
        closed_s=list(heard.closed_s),
        cut=played.cut,
        by_click=e.by_click,
        perhaps=[PerhapsRow(p.time_s, p.voice, p.velocity, p.probability) for p in heard.perhaps],
    )


def _hints_row(h: Hints) -> HintsRow:
    click = (h.click.bpm, h.click.at_s) if h.click else None
    return HintsRow(h.tempo_bpm, _meter_row(h.meter) if h.meter else None, h.bars, h.downbeat_s, h.straight, click)


def _hints(row: HintsRow) -> Hints:
    meter, click = Meter(*row.meter) if row.meter else None, Click(*row.click) if row.click else None
    return Hints(row.tempo_bpm, meter, row.bars, row.downbeat_s, row.straight, click)


def _reading(row: ReadingRow) -> TempoReading:
    return TempoReading(checked_tempo_bpm(row.tempo_bpm), Meter(*row.meter), row.share, row.downbeat_s, row.why)


def _listening(row: ListeningRow) -> Listening:
    readings = tuple(_reading(r) for r in row.readings)
    groove = groove_from(row.groove)
    _check_listening(row, groove)
    passages = tuple(Passage(*p) for p in row.passages)
    said, hints = _hints(row.corrections), _hints(row.hints)
    explained = Explained(
        groove,
        row.start_s,
        tuple(row.source),
        row.swing_error,
        row.loose_ms,
        readings,
        passages,
        row.lost_s,
        (said.click or hints.click) if row.by_click else None,
    )
    fixes = tuple(Fix(f.kind, f.time_s, f.voice, f.to_voice, f.velocity, f.meant_s) for f in row.fixes)
    corrections = Corrections(fixes, said.tempo_bpm, said.meter, said.downbeat_s, said.straight, said.click)
    rows = _rows_of(groove, row.confidence) if row.heard is None else row.heard
    last_s = max((r.time_s for r in rows), default=0.0)
    heard = Performance.of(
        [r.time_s for r in rows],
        [VOICE_INDEX.get(r.voice, -1) for r in rows],
        [r.velocity for r in rows],
        stroke=[STROKE_INDEX.get(r.stroke, -1) for r in rows],
        length_s=last_s if row.length_s is None else row.length_s,
        cut=row.cut,
    )
    sure = tuple(r.confidence for r in rows)
    closed = tuple((a, b) for a, b in row.closed_s)
    return Listening(
        explained, tuple(row.confidence), tuple(row.remarks), heard, sure, hints, corrections, closed,
        tuple(Perhaps(p.time_s, p.voice, p.velocity, p.odds) for p in row.perhaps),
    )  # fmt: skip


def _check_listening(row: ListeningRow, groove: Groove) -> None:
    """What belongs together has to be equally long, and every moment has to be one; an InputError else."""
    hits = len(groove.pattern.hits)
    if not len(row.source) == len(row.confidence) == hits:
        raise InputError(f"{hits} hits were heard, but {len(row.source)} have a source and {len(row.confidence)} odds.")
    rows = len(row.heard) if row.heard is not None else hits
    if any(not 0 <= s < max(rows, hits) + len(row.fixes) for s in row.source):
        raise InputError("A heard hit names a source that is not there.")
    moments = [row.start_s, *(t for pair in row.closed_s for t in pair), *(h.time_s for h in row.heard or [])]
    said = (row.lost_s, row.length_s, row.hints.downbeat_s, row.corrections.downbeat_s)
    moments += [m for m in (*said, *(r.downbeat_s for r in row.readings)) if m is not None]
    moments += [p.time_s for p in row.perhaps]
    moments += [h.origin.time_s for h in groove.pattern.hits if h.origin]
    if any(not abs(m) <= MAX_MOMENT_S for m in moments):  # also catches NaN
        raise InputError("A moment lies outside what a recording can hold.")
    odds = [*row.confidence, *(h.confidence for h in row.heard or []), *(r.share for r in row.readings)]
    odds += [p.odds for p in row.perhaps]
    if any(not 0 <= c <= 1 for c in odds):
        raise InputError("A figure of confidence is outside 0 to 1.")
    if any(not 0 <= ms <= 1e6 for ms in row.loose_ms.values()) or not 0 <= row.swing_error <= 1e6:
        raise InputError("A spread is outside what can be.")
    for start, end, grid in row.passages:
        step_ticks(grid)
        if not 0 <= start < end <= MAX_TICKS:
            raise InputError("A passage that was heard ends before it begins.")
    for name in (*row.loose_ms, *(p.voice for p in row.perhaps)):
        voice(name)
    if any(not 1 <= p.velocity <= 127 for p in row.perhaps):
        raise InputError("A stroke that is offered has a velocity outside 1 to 127.")
    for told in (row.hints, row.corrections):
        if told.tempo_bpm is not None:
            checked_tempo_bpm(told.tempo_bpm)


def _rows_of(groove: Groove, confidence: list[float]) -> list[HeardRow]:
    """What was heard, read off the heard groove of a project of version 1."""
    found = [
        HeardRow(h.origin.time_s, h.voice, h.velocity, c, h.stroke)
        for h, c in zip(groove.pattern.hits, confidence, strict=True)
        if h.origin is not None
    ]
    return sorted(found, key=lambda r: r.time_s)


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
