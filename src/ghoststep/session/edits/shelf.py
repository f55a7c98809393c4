"""Copying and pasting hits: between bars and between lanes, spots kept."""

from dataclasses import dataclass, replace

from ghoststep.music.errors import InputError
from ghoststep.music.kit import LANE_OF_VOICE, LANES
from ghoststep.music.pattern import Hit, copy_of
from ghoststep.session.document.document import Document
from ghoststep.session.edits.hit_edits import Edit, fitted


@dataclass(frozen=True)
class Shelf:
    """Hits that were copied, counted from the bar line the first of them stood behind."""

    hits: tuple[Hit, ...]

    @property
    def lanes(self) -> set[int]:
        return {LANE_OF_VOICE[h.voice] for h in self.hits}


def copied(document: Document, hits: list[Hit]) -> Shelf:
    """What copying the hits puts aside.

    Raises
    ------
    InputError
        Where nothing is chosen.
    """
    if not hits:
        raise InputError("Choose the hits to copy first.")
    first = min(h.position_ticks for h in hits)
    line = document.groove.pattern.frame.bar_start_at(first)
    return Shelf(tuple(copy_of(h, position_ticks=h.position_ticks - line) for h in hits))


def paste(document: Document, shelf: Shelf | None, *, cursor_ticks: int, lane: int, here: bool) -> Edit:
    """Into the cursor's bar at the same spots, or (`here`) with the first hit at the cursor.

    Hits of one lane go into the cursor's lane. What stands on the same spots gives way.

    Raises
    ------
    InputError
        Where nothing was copied, or it reaches past the end.
    """
    if shelf is None:
        raise InputError("Nothing was copied yet.")
    pattern = document.groove.pattern
    by = pattern.frame.bar_start_at(cursor_ticks)
    if here:
        by = cursor_ticks - min(h.position_ticks for h in shelf.hits)
    new = [replace(h, position_ticks=h.position_ticks + by) for h in shelf.hits]
    last = max(h.position_ticks for h in new)
    if last >= pattern.length_ticks:
        needed = pattern.frame.spot_at(last).bar
        raise InputError(f"The paste does not fit: it reaches bar {needed}, but the groove has {pattern.bars}.")
    if len(shelf.lanes) == 1 and lane not in shelf.lanes:
        new = [fitted(h, LANES[lane].voices[0]) for h in new]
    spots = {(h.position_ticks, h.voice) for h in new if not h.grace}
    low, high = min(h.position_ticks for h in new), last + 1
    gone = {i for i in pattern.between(low, high) if (pattern.hits[i].position_ticks, pattern.hits[i].voice) in spots}
    count = f"{len(new)} hit{'s' if len(new) != 1 else ''}"
    return f"{count} pasted", document.with_groove(pattern=pattern.with_hits(gone, new))
