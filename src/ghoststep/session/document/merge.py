"""What the user changed on the grid, carried over to a groove that was fitted anew.

Three versions are at hand: the groove as it was heard, as it was edited since, and as it is heard now. What differs
between the first two was meant by the user and is done to the third.
"""

from dataclasses import dataclass, replace

from ghoststep.music.groove import Groove
from ghoststep.music.pattern import MAX_BARS, Hit
from ghoststep.music.time import TICKS_PER_QUARTER

_FIELDS = ("voice", "velocity", "role", "stroke", "limb", "grace", "ornament", "length_ticks")
_FINEST_TICKS = TICKS_PER_QUARTER // 48
_SAME_MS = 0.05


@dataclass(frozen=True)
class Version:
    """A groove and the second of the recording on which its bar 1 begins."""

    groove: Groove
    start_s: float


def carried(old: Version, edited: Groove, new: Version) -> Groove:
    """The new groove with the user's edits done to it."""
    if _same(edited, old.groove):
        return new.groove.changed(name=edited.name)
    before, after = _Origins(old.groove.pattern.hits), _Origins(edited.pattern.hits)
    hits: list[Hit] = []
    moved = _retimed(old, new)
    for h in new.groove.pattern.hits:
        was, now = before.find(h), after.find(h)
        if was is None:
            hits.append(h)
        elif now is not None:
            hits.append(_edited(h, was, now, moved))
    for h in edited.pattern.hits:
        if h.origin is None and (spot := _spot(h, old, new, moved)) is not None:
            hits.append(replace(h, position_ticks=spot))
    pattern = new.groove.pattern
    bars = max([pattern.bars, *(h.position_ticks // pattern.meter.bar_ticks + 1 for h in hits)])
    out = new.groove.changed(hits=tuple(hits), bars=bars, name=edited.name)
    for name in ("grid", "lane_grids", "rules"):
        if getattr(edited.pattern, name) != getattr(old.groove.pattern, name):
            out = out.changed(**{name: getattr(edited.pattern, name)})
    if edited.pattern.passages != old.groove.pattern.passages and not moved:
        out = out.changed(passages=edited.pattern.passages)
    if edited.feel != old.groove.feel:
        out = out.changed(feel=edited.feel)
    if edited.tempo != old.groove.tempo and not moved:
        out = out.changed(tempo=edited.tempo)
    return out


def _same(a: Groove, b: Groove) -> bool:
    return a.changed(name="") == b.changed(name="")


class _Origins:
    """Hits by the moment and the voice they were heard at and as."""

    def __init__(self, hits: tuple[Hit, ...]) -> None:
        self._exact: dict[tuple[float, str], Hit] = {}
        self._at: dict[float, list[Hit]] = {}
        for h in hits:
            if h.origin is not None:
                time_s = round(h.origin.time_s, 6)
                self._exact[time_s, h.origin.voice] = h
                self._at.setdefault(time_s, []).append(h)

    def find(self, h: Hit) -> Hit | None:
        """The hit of the same origin; one whose voice was corrected since is known by its moment alone."""
        if h.origin is None:
            return None
        time_s = round(h.origin.time_s, 6)
        alone = self._at.get(time_s, [])
        return self._exact.get((time_s, h.origin.voice)) or (alone[0] if len(alone) == 1 else None)


def _edited(h: Hit, was: Hit, now: Hit, moved: bool) -> Hit:
    changes = {f: getattr(now, f) for f in _FIELDS if hasattr(now, f) and getattr(now, f) != getattr(was, f)}
    if abs(now.offset_ms - was.offset_ms) > _SAME_MS:
        changes["offset_ms"] = now.offset_ms
    if now.position_ticks != was.position_ticks and not moved:
        changes["position_ticks"] = now.position_ticks
    return replace(h, **changes)


def _retimed(old: Version, new: Version) -> bool:
    """Whether positions of the two versions do not mean the same."""
    same_bars = old.groove.pattern.meter == new.groove.pattern.meter
    quarter = 60 / old.groove.tempo.main_bpm
    return not (
        same_bars
        and abs(old.start_s - new.start_s) < 0.1 * quarter
        and abs(old.groove.tempo.main_bpm / new.groove.tempo.main_bpm - 1) < 0.02
    )


def _spot(h: Hit, old: Version, new: Version, moved: bool) -> int | None:
    """Where a hit that never was in the recording stands in the new groove; None where that is before bar 1."""
    if not moved:
        return h.position_ticks
    seconds = old.start_s + float(old.groove.tempo.seconds(h.position_ticks)) - new.start_s
    ticks = round(float(new.groove.tempo.to_ticks(seconds)) / _FINEST_TICKS) * _FINEST_TICKS
    within = MAX_BARS * new.groove.pattern.meter.bar_ticks
    return ticks if 0 <= ticks < within else None
