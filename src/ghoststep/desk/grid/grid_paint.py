"""Painting the grid: ruler, lane heads, step lines, stems. Reads a Geometry, knows no mouse."""

from collections.abc import Set as AbstractSet

from PySide6.QtCore import QLineF, QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPen

from ghoststep.desk.grid.geometry import GUTTER_W, RULER_H, Geometry
from ghoststep.desk.look.look import Look, font
from ghoststep.desk.look.stems import Placed, draw_end, draw_stems, size_for
from ghoststep.music.kit import LANES
from ghoststep.music.meter import Meter
from ghoststep.music.pattern import Hit
from ghoststep.music.spots import count_name
from ghoststep.music.time import TICKS_PER_QUARTER, step_ticks
from ghoststep.session.edits.stroke_edits import closings

_LEAN_REACH_MS = 20.0
_TOLD_APART = 3  # velocities that are nearer are drawn as one
Lean = dict[str, tuple[float, float]]  # voice -> lean and looseness in ms


def paint_ground(painter: QPainter, g: Geometry, x0: float, x1: float) -> None:
    """Lanes as bands, step lines in them (bent by swing), beat and bar lines through all, between two x."""
    painter.fillRect(QRectF(x0, 0, x1 - x0, g.height), Look.color("ground"))
    for row in range(len(g.lanes)):
        if row % 2 == 0:
            painter.fillRect(QRectF(x0, g.lane_top(row), x1 - x0, g.lane_h), Look.color("panel"))
    low, high = g.visible(x0, x1)
    frame = g.groove.pattern.frame
    fine = QPen(Look.color("line"), 1)
    end_x = g.x_of(g.groove.pattern.length_ticks)
    for row in range(len(g.lanes)):
        painter.setPen(fine)
        foot = g.foot_y(row)
        lines = [
            QLineF(x, g.lane_top(row) + 10, x, foot)
            for t in g.steps(row, low, high - 1)
            if g.step_of(row, t) * g.quarter_px / TICKS_PER_QUARTER >= 5
            for x in (g.line_x(t, g.voice_of(row)),)
        ]
        painter.drawLines(lines)
        _between(painter, g, row, low, high)
        painter.setPen(fine)
        painter.drawLine(QLineF(x0, foot, min(end_x, x1), foot))
        _rounds(painter, g, row, low, high)
    painter.setPen(QPen(Look.color("strong_line"), 1))
    starts = [start + s for _, start, meter in frame.between(low, high) for s in meter.group_starts]
    painter.drawLines([QLineF(g.x_of(t), RULER_H, g.x_of(t), g.content_h) for t in starts if t < high])
    painter.setPen(QPen(Look.color("dim"), 2))
    ends = [start for _, start, _ in frame.between(low, high + 1)]
    painter.drawLines([QLineF(g.x_of(t), RULER_H - 36, g.x_of(t), g.content_h) for t in ends])


def _between(painter: QPainter, g: Geometry, row: int, low: int, high: int) -> None:
    """Dotted lines between steps that have room for them: there hits go that are off the grid."""
    parts = g.parts_of(g.step_of(row, low))
    if parts == 1:
        return
    painter.setPen(QPen(Look.color("line"), 1, Qt.PenStyle.DotLine))
    for t in g.steps(row, low, high - 1):
        step = g.step_of(row, t)
        for k in range(1, parts):
            x = g.line_x(t + k * step // parts, g.voice_of(row))
            painter.drawLine(QLineF(x, g.lane_top(row) + 24, x, g.foot_y(row)))


def _rounds(painter: QPainter, g: Geometry, row: int, low: int, high: int) -> None:
    """Where a lane that repeats against the bar begins anew."""
    pattern = g.groove.pattern
    painter.setPen(QPen(Look.color("lamp"), 2))
    for t, _ in pattern.rules.rounds_of(g.lanes[row], pattern.frame, pattern.length_ticks):
        if not low <= t < high:
            continue
        x = g.line_x(t)
        painter.drawLine(QLineF(x, g.foot_y(row) - 10, x, g.foot_y(row) + 5))


def paint_ruler(painter: QPainter, g: Geometry, region: tuple[int, int] | None, x0: float, x1: float) -> None:
    """Bar numbers, the grouping as brackets, and counted syllables as far as there is room for them."""
    painter.fillRect(QRectF(x0, 0, x1 - x0, RULER_H), Look.color("ground"))
    pattern = g.groove.pattern
    low, high = g.visible(x0, x1)
    if region:
        a, b = g.x_of(region[0]), g.x_of(region[1])
        painter.fillRect(QRectF(a, 0, b - a, 7), Look.color("lamp"))
    # One bar more at the left, whose name may reach in here.
    before = max(low - pattern.frame.meter_at(low).bar_ticks, 0)
    for bar, start, meter in pattern.frame.between(before, min(high, pattern.length_ticks)):
        _bar_head(painter, g, bar, start, meter)


def _bar_head(painter: QPainter, g: Geometry, bar: int, start: int, meter: Meter) -> None:
    """Number, meter where it changes, tempo where it does, grouping and syllables of one bar."""
    bar_px = meter.bar_ticks * g.quarter_px / TICKS_PER_QUARTER
    names_every = next((n for n in (1, 2, 4, 8, 16, 32, 64, 128, 256) if n * bar_px >= 26), 512)
    if (bar - 1) % names_every == 0:
        painter.setFont(font(14, bold=True))
        painter.setPen(Look.color("text"))
        painter.drawText(QPointF(g.x_of(start) + 6, 24), f"bar {bar}" if bar_px > 60 else f"{bar}")
    letter = g.letters[bar - 1] if bar <= len(g.letters) and bar_px > 90 else ""
    if letter:
        painter.setPen(Look.color("lamp"))
        painter.drawText(QPointF(g.x_of(start) + 58, 24), letter)
    news = _news(g, bar, start) if bar_px > 110 else ""
    if news:
        painter.setFont(font(12))
        painter.setPen(Look.color("lamp"))
        painter.drawText(QPointF(g.x_of(start) + (58 if not letter else 84), 24), news)
    if bar_px > 60 and (meter.groups != (1,) * meter.numerator):
        _brackets(painter, g, start, meter, counted=not news)
    every = _readable_step(g, start, meter)
    for tick in range(0, meter.bar_ticks, every) if every else ():
        _syllable(painter, g, start + tick, tick, meter)


def _news(g: Geometry, bar: int, start: int) -> str:
    """What is new at a bar line: "7/8, 96 → 120 BPM"; nothing where all goes on as before."""
    pattern, tempo = g.groove.pattern, g.groove.tempo
    changes = bar > 1 and pattern.frame.meter_of(bar) != pattern.frame.meter_of(bar - 1)
    out = [pattern.frame.meter_of(bar).full_name] if changes or (bar == 1 and pattern.meter_changes) else []
    part = next((p for p in tempo.parts if p[0] == start), None) if not tempo.steady else None
    # A tempo that drifts from bar to bar, as one that was heard does, is no news.
    if part is not None and (part[1] != part[2] or len(tempo.ticks) < pattern.bars):
        out.append(f"{part[1]:.4g} → {part[2]:.4g} BPM" if part[1] != part[2] else f"{part[1]:.4g} BPM")
    return ", ".join(out)


def _readable_step(g: Geometry, at: int, meter: Meter) -> int:
    """The finest step whose syllables have room, in ticks; 0 where not even the counted notes have."""
    pattern = g.groove.pattern
    grid = next((p.grid for p in pattern.passages if p.start_ticks <= at < p.end_ticks), pattern.grid)
    step, unit = step_ticks(grid), meter.unit_ticks
    tried = [step * n for n in (1, 2, 3, 4) if unit % (step * n) == 0] + [unit]
    return next((t for t in tried if t * g.quarter_px / TICKS_PER_QUARTER >= 14), 0)


def _brackets(painter: QPainter, g: Geometry, bar_start: int, meter: Meter, *, counted: bool) -> None:
    """The groups of a bar; their counts only where no words stand in the way, which then name them."""
    painter.setPen(QPen(Look.color("dim"), 1))
    painter.setFont(font(11))
    for start, count in zip(meter.group_starts, meter.groups, strict=True):
        a, b = g.x_of(bar_start + start) + 3, g.x_of(bar_start + start + count * meter.unit_ticks) - 3
        painter.drawPolyline([QPointF(a, 36), QPointF(a, 32), QPointF(b, 32), QPointF(b, 36)])
        if counted:
            painter.drawText(QRectF(a, 14, b - a - 2, 16), Qt.AlignmentFlag.AlignRight, str(count))


def _syllable(painter: QPainter, g: Geometry, at: int, tick: int, meter: Meter) -> None:
    name = count_name(tick, meter)
    number = tick % meter.unit_ticks == 0
    word = name if number else name.lstrip("0123456789")
    if not number and word.startswith("."):
        word = "·"
    painter.setFont(font(14 if number else 12, bold=number))
    painter.setPen(Look.color("text") if number else Look.color("dim"))
    x = g.line_x(at)
    painter.drawText(QRectF(x - 16, 38, 32, 20), Qt.AlignmentFlag.AlignCenter, word)


def paint_gutter(painter: QPainter, g: Geometry, lean: Lean) -> None:
    """Lane heads: the name, and the lean as a spread around the pulse, early left and late right."""
    painter.fillRect(QRectF(0, 0, GUTTER_W, g.height), Look.color("ground"))
    painter.setPen(QPen(Look.color("strong_line"), 1))
    painter.drawLine(QLineF(GUTTER_W, 0, GUTTER_W, g.content_h))
    painter.setFont(font(11))
    painter.setPen(Look.color("dim"))
    painter.drawText(QPointF(12, 18), f"deviation ×{g.magnify:g}")
    painter.drawText(QRectF(12, RULER_H - 20, GUTTER_W - 16, 16), Qt.AlignmentFlag.AlignLeft, "early  |  late")
    rules = g.groove.pattern.rules
    for row, index in enumerate(g.lanes):
        top, lane = g.lane_top(row), LANES[index]
        painter.setFont(font(14, bold=True))
        painter.setPen(Look.color("text"))
        painter.drawText(QPointF(12, top + 20), lane.label)
        notes = []
        if dict(g.groove.pattern.lane_grids).get(lane.voices[0]):
            notes.append(f"1/{g.groove.pattern.grid_of(lane.voices[0])}")
        if cycle := rules.cycle_of(index):
            notes.append(f"every {cycle // g.step_of(row)}")
        if notes:
            painter.setFont(font(11))
            painter.setPen(Look.color("lamp"))
            painter.drawText(QRectF(80, top + 6, GUTTER_W - 88, 18), Qt.AlignmentFlag.AlignRight, ", ".join(notes))
        found = [lean[v] for v in lane.voices if v in lean]
        if found:
            _spread(painter, 12, top + 32, found[0])


def _spread(painter: QPainter, x: float, y: float, lean: tuple[float, float]) -> None:
    ms, loose = lean
    width, middle = 62.0, x + 31.0

    def at(value: float) -> float:
        return middle + min(max(value / _LEAN_REACH_MS, -1), 1) * width / 2

    painter.setPen(QPen(Look.color("strong_line"), 1))
    painter.drawLine(QLineF(x, y + 5, x + width, y + 5))
    painter.drawLine(QLineF(middle, y, middle, y + 10))
    painter.fillRect(QRectF(at(ms - loose), y, at(ms + loose) - at(ms - loose), 10), Look.color("lamp", 110))
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(Look.color("lamp"))
    painter.drawEllipse(QPointF(at(ms), y + 5), 3, 3)
    painter.setFont(font(12))
    painter.setPen(Look.color("dim"))
    painter.drawText(QPointF(x + width + 7, y + 10), f"{round(ms):+d}" if round(ms) else "0")
    painter.drawText(QPointF(x + width + 30, y + 10), f"±{loose:.0f} ms")


# Hits that last: the hit, where it ends in ticks, and by what (see `session.strokes.closings`).
Lasting = tuple[tuple[Hit, int, str], ...]


def lasting(g: Geometry, x0: float, x1: float) -> Lasting:
    """What of the hits that last can be seen between two x."""
    if size_for(g.sixteenth_px) == "dot":
        return ()
    pattern = g.groove.pattern
    low, high = g.visible(x0, x1)
    found = closings(pattern, low - 2 * pattern.frame.meter_at(low).bar_ticks, high)
    return tuple((pattern.hits[i], end, by) for i, (end, by) in found.items() if end >= low)


def paint_proposed(painter: QPainter, g: Geometry, hits: tuple[Hit, ...], x0: float, x1: float) -> None:
    """Hits that are only proposed: dotted stems with hollow dotted heads."""
    low, high = g.visible(x0, x1)
    for h in hits:
        row = g.row_of(h.voice)
        if row is None or not low <= h.position_ticks <= high:
            continue
        x, foot, head = g.line_x(h.position_ticks, h.voice), g.foot_y(row), g.head_y(row, h.velocity)
        painter.setPen(QPen(Look.limb(h.limb_letter), 1.6, Qt.PenStyle.DotLine))
        painter.drawLine(QLineF(x, foot, x, head))
        painter.setBrush(Look.color("ground"))
        painter.drawEllipse(QPointF(x, head), 7, 7)


def paint_leaving(painter: QPainter, g: Geometry, hits: tuple[Hit, ...], x0: float, x1: float) -> None:
    """Hits that would go or change: a dotted ring round the head, struck through."""
    low, high = g.visible(x0, x1)
    pen = QPen(Look.color("warn"), 1.6, Qt.PenStyle.DotLine)
    for h in hits:
        row = g.row_of(h.voice)
        if row is None or not low <= h.position_ticks <= high:
            continue
        x, head = g.line_x(h.position_ticks, h.voice), g.head_y(row, h.velocity)
        painter.setPen(pen)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawEllipse(QPointF(x, head), 9, 9)
        painter.setPen(QPen(Look.color("warn"), 1.6))
        painter.drawLine(QLineF(x - 7, head + 7, x + 7, head - 7))


def paint_stems(
    painter: QPainter,
    g: Geometry,
    chosen: AbstractSet[int],
    ends: Lasting,
    x0: float,
    x1: float,
    ratio: float,
) -> None:
    """The hits between two x; `chosen` holds indices into the pattern's hits."""
    pattern = g.groove.pattern
    low, high = g.visible(x0, x1)
    rows = {name: g.row_of(name) for name in pattern.voices}
    size = size_for(g.sixteenth_px)
    for h, end, by in ends:
        row = rows[h.voice]
        if row is not None:
            draw_end(painter, h, g.stem_x(h), g.line_x(end), g.head_y(row, h.velocity), by)
    placed = []
    marks: list[tuple[float, float, float]] = []
    feet = {name: (g.foot_y(row) if row is not None else 0.0) for name, row in rows.items()}
    a_step = g.full_stem / 127
    for i in pattern.between(low, high + 1):
        h = pattern.hits[i]
        if rows[h.voice] is not None:
            foot = feet[h.voice]
            line_x = g.line_x(h.position_ticks, h.voice)
            placed.append(Placed(h, line_x, g.stem_x(h), foot, foot - a_step * h.velocity, i in chosen))
        if rows[h.voice] is not None and g.played is not None and abs(g.played[i] - h.velocity) >= _TOLD_APART:
            marks.append((g.stem_x(h), foot - a_step * g.played[i], foot - a_step * h.velocity))
    draw_stems(painter, placed, size=size, ratio=ratio)
    _played_marks(painter, marks)


def _played_marks(painter: QPainter, marks: list[tuple[float, float, float]]) -> None:
    """Where the feel's touch plays a hit harder or softer than written: a bar at that height, tied to the head."""
    painter.setPen(QPen(Look.color("text", 120), 1, Qt.PenStyle.DotLine))
    painter.drawLines([QLineF(x, played_y, x, head_y) for x, played_y, head_y in marks])
    painter.setPen(QPen(Look.color("text"), 2))
    painter.drawLines([QLineF(x - 5, played_y, x + 5, played_y) for x, played_y, _ in marks])
