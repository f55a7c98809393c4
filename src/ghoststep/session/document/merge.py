"""What the user changed on the grid, carried over to a groove that was fitted anew.

Three versions are at hand: the groove as it was heard, as it was edited since, and as it is heard now. What differs
between the first two was meant by the user and is done to the third.
"""

from dataclasses import dataclass, fields, replace

from ghoststep.music.groove import Groove
from ghoststep.music.pattern import MAX_BARS, Hit
from ghoststep.music.time import TICKS_PER_QUARTER

_OF_LISTENING = ("origin", "key")  # these are the listening's own, whatever was edited
_FRAME = ("grid", "lane_grids", "passages", "rules", "meter", "meter_changes", "bars")
_BY_POSITION = ("passages", "meter", "meter_changes", "bars")  # they mean nothing where bars lie otherwise
_FINEST_TICKS = TICKS_PER_QUARTER // 48
_SAME_MS = 0.05


@dataclass(frozen=True)
class Version:
    """A groove and the second of the recording on which its bar 1 begins."""

    groove: Groove
    start_s: float


def carried(old: Version, edited: Groove, new: Version) -> Groove:
    """The new groove with the user's edits done to it.

    Hits are known by their keys: those of what was heard are the same in all three, those the user put in are only in
    the edited one.
    """
    if _same(edited, old.groove):
        return new.groove.changed(name=edited.name)
    before = {h.key: h for h in old.groove.pattern.hits}
    after = {h.key: h for h in edited.pattern.hits}
    moved = _retimed(old, new)
    hits: list[Hit] = []
    for h in new.groove.pattern.hits:
        was, now = before.get(h.key), after.get(h.key)
        if was is None:  # heard only now
            hits.append(h)
        elif now is not None:
            hits.append(_edited(h, was, now, moved=moved))
    for h in edited.pattern.hits:
        if h.key not in before and (spot := _spot(h, old, new, moved)) is not None:
            hits.append(replace(h, position_ticks=spot))
    pattern = new.groove.pattern
    bars = max([pattern.bars, *(pattern.frame.spot_at(h.position_ticks).bar for h in hits)])
    out = new.groove.changed(hits=tuple(hits), bars=bars, name=edited.name)
    changed = [name for name in _FRAME if getattr(edited.pattern, name) != getattr(old.groove.pattern, name)]
    kept = {name: getattr(edited.pattern, name) for name in changed if not moved or name not in _BY_POSITION}
    if kept:
        length = max(kept.get("bars", out.pattern.bars), out.pattern.bars)
        out = out.changed(**{**kept, "bars": length})
    if edited.feel != old.groove.feel:
        out = out.changed(feel=edited.feel)
    if edited.tempo != old.groove.tempo and not moved:
        out = out.changed(tempo=edited.tempo)
    return out


def _same(a: Groove, b: Groove) -> bool:
    return a.changed(name="") == b.changed(name="")


def _edited(h: Hit, was: Hit, now: Hit, *, moved: bool) -> Hit:
    """The hit as it is heard now, with every field that the user changed as the user has it."""
    changes = {}
    for f in fields(Hit):
        mine = getattr(now, f.name)
        if f.name in _OF_LISTENING or mine == getattr(was, f.name) or (moved and f.name == "position_ticks"):
            continue
        if f.name == "offset_ms" and abs(mine - was.offset_ms) <= _SAME_MS:
            continue
        changes[f.name] = mine
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
    within = new.groove.pattern.frame.start_of(MAX_BARS + 1)
    return ticks if 0 <= ticks < within else None
