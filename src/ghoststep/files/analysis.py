"""The analysis of a listening as JSON."""

from collections.abc import Sequence
from fractions import Fraction
from pathlib import Path
from typing import Any

import msgspec

from ghoststep.files.safe import write_text
from ghoststep.listen.bars.explain import Explained
from ghoststep.listen.strokes.perhaps import Perhaps
from ghoststep.music.feel import SWING_UNITS
from ghoststep.music.kit import GROUPS
from ghoststep.music.time import TICKS_PER_QUARTER
from ghoststep.music.touch import Role, role_of


def analysis(
    explained: Explained,
    confidence: tuple[float, ...],
    onset_s: tuple[float, ...],
    remarks: tuple[str, ...],
    closed_s: tuple[tuple[float, float], ...] = (),
) -> dict[str, Any]:
    """The object that `listen --json` writes; `confidence` and `onset_s` in the order of the pattern's hits.

    `closed_s` pairs onsets of open hats with the moments they are closed again.
    """
    groove = explained.groove
    pattern, swing = groove.pattern, groove.feel.swing
    return {
        "tempo_bpm": round(60 * pattern.length_ticks / TICKS_PER_QUARTER / groove.length_s, 4),
        "meter": [pattern.meter.numerator, pattern.meter.denominator],
        "grouping": list(pattern.meter.groups),
        "downbeat_s": round(explained.start_s, 6),
        "bars": pattern.bars,
        "swing": {
            "unit": None if swing.straight else SWING_UNITS[swing.unit],
            "ratio": round(swing.ratio, 4),
            "error": round(explained.swing_error, 4),
        },
        "pocket_ms": _pocket(explained),
        "pocket_against": "click" if explained.by_click else "own pulse",
        "looseness_ms": {name: round(ms, 2) for name, ms in sorted(explained.loose_ms.items())},
        "tempo_readings": [
            {"tempo_bpm": round(r.tempo_bpm, 2), "meter": str(r.meter), "share": round(r.share, 3)}
            for r in explained.readings
        ],
        "readings": [
            {
                "tempo_bpm": round(r.tempo_bpm, 4),
                "meter": [r.meter.numerator, r.meter.denominator],
                "downbeat_s": r.downbeat_s,
                "why": r.why,
                "share": round(r.share, 3),
            }
            for r in explained.readings
        ],
        "remarks": list(remarks),
        "passages": [
            {
                "from_beats": p.start_ticks / TICKS_PER_QUARTER,
                "to_beats": p.end_ticks / TICKS_PER_QUARTER,
                "grid": p.grid,
            }
            for p in explained.passages
        ],
        "tempo_curve": [
            {"bar": pattern.frame.spot_at(tick).bar, "bpm": round(bpm, 3)}
            for tick, bpm in zip(groove.tempo.ticks, groove.tempo.bpm, strict=True)
        ],
        "hits": _hits(explained, confidence, onset_s, closed_s),
    }


def _pocket(explained: Explained) -> dict[str, float]:
    """Lean by group; the ride is named by itself, since it leans apart from crashes."""
    groove = explained.groove
    out: dict[str, float] = {}
    for name in groove.pattern.voices:
        key = "ride" if name.startswith("ride") else next((g for g in GROUPS if name.startswith(g)), name)
        key = "snare" if name == "cross_stick" else key
        if name in groove.feel.lean_ms or key in ("kick", "snare", "hat", "ride"):
            out.setdefault(key, round(groove.feel.lean_of(name), 3))
    return out


def _hits(
    explained: Explained,
    confidence: tuple[float, ...],
    onset_s: tuple[float, ...],
    closed_s: tuple[tuple[float, float], ...],
) -> list[dict[str, Any]]:
    pattern = explained.groove.pattern
    closes = {round(a, 6): b for a, b in closed_s}
    rows, rough = [], explained.rough_velocities()
    told = zip(pattern.hits, explained.straight_offsets_ms(), confidence, onset_s, strict=True)
    for i, (h, offset, sure, onset) in enumerate(told):
        spot = pattern.frame.spot_at(h.position_ticks)
        position = Fraction(spot.tick, TICKS_PER_QUARTER)
        row = {
            "time_s": round(onset, 6),
            "voice": h.voice,
            "velocity": h.velocity,
            "ghost": h.role == "ghost",
            "bar": spot.bar,
            "position_beats": f"{position.numerator}/{position.denominator}",
            "offset_ms": round(float(offset), 3),
            "confidence": round(sure, 3),
        }
        if i in rough:
            row["velocity_rough"] = True
        if h.grace:
            row["grace"] = True
        if h.stroke != "plain":
            row["stroke"] = h.stroke
        if h.voice in ("hat_open", "hat_half") and round(onset, 6) in closes:
            row["closed_s"] = round(closes[round(onset, 6)], 4)
        rows.append(row)
    return sorted(rows, key=lambda r: r["time_s"])


def perhaps_rows(perhaps: Sequence[tuple[Perhaps, int]], explained: Explained) -> list[dict[str, Any]]:
    """Strokes at odds too low to be played, with the fields of hits; each with its spot in ticks."""
    groove = explained.groove
    frame = groove.pattern.frame
    rows = []
    for p, ticks in perhaps:
        spot = frame.spot_at(ticks)
        position = Fraction(spot.tick, TICKS_PER_QUARTER)
        straight_s = explained.start_s + float(groove.tempo.seconds(ticks))
        rows.append({
            "time_s": round(p.time_s, 6),
            "voice": p.voice,
            "velocity": p.velocity,
            "ghost": role_of(p.velocity) is Role.GHOST,
            "bar": spot.bar,
            "position_beats": f"{position.numerator}/{position.denominator}",
            "offset_ms": round(1000 * (p.time_s - straight_s), 3),
            "confidence": round(p.probability, 3),
        })  # fmt: skip
    return rows


def analysis_bytes(content: dict[str, Any]) -> bytes:
    """The object as JSON text."""
    return msgspec.json.format(msgspec.json.encode(content), indent=1) + b"\n"


def write_analysis(path: Path, content: dict[str, Any]) -> None:
    """Write the object as JSON; an InputError where it cannot be written."""
    write_text(path, analysis_bytes(content).decode())
