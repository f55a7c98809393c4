"""The same music written in other notes: twice or half as long, at twice or half the tempo."""

from dataclasses import replace

from ghoststep.music.errors import InputError
from ghoststep.music.feel import SWING_UNITS, Swing
from ghoststep.music.pattern import MAX_BARS
from ghoststep.music.time import TempoMap, checked_tempo_bpm
from ghoststep.session.document.document import Document
from ghoststep.session.edits.hit_edits import Edit


def rewritten(document: Document, times: float) -> Edit:
    """The same music in notes so many times as long, at so many times the tempo; it sounds as before.

    Raises
    ------
    InputError
        Where bars would not come out whole, a note fell between two ticks, or the swing has no such unit.
    """
    groove = document.groove
    pattern, frame, feel = groove.pattern, groove.pattern.frame, groove.feel
    longer = "longer" if times > 1 else "shorter"
    length = pattern.length_ticks * times
    if frame.changes or length % frame.first.bar_ticks:
        raise InputError(f"In {longer} notes these bars do not come out whole: give them one meter and an even number.")
    if not 1 <= length // frame.first.bar_ticks <= MAX_BARS:
        raise InputError(f"A groove has 1 to {MAX_BARS} bars.")
    if any(h.position_ticks * times % 1 or h.length_ticks * times % 1 for h in pattern.hits):
        raise InputError(f"In {longer} notes a hit would fall between two ticks.")
    hits = tuple(
        replace(h, position_ticks=int(h.position_ticks * times), length_ticks=int(h.length_ticks * times))
        for h in pattern.hits
    )
    passages = tuple(
        replace(
            p, start_ticks=int(p.start_ticks * times), end_ticks=int(p.end_ticks * times), grid=_grid(p.grid, times)
        )
        for p in pattern.passages
    )
    lanes = tuple((name, _grid(g, times)) for name, g in pattern.lane_grids)
    tempo = TempoMap(
        tuple(round(t * times) for t in groove.tempo.ticks),
        tuple(checked_tempo_bpm(b * times) for b in groove.tempo.bpm),
        tuple(checked_tempo_bpm(b * times) for b in groove.tempo.to_bpm),
    )
    own = {name: _in_unit(s, times) for name, s in feel.swings.items()}
    after = replace(feel, swing=_in_unit(feel.swing, times), swings=own, spots=())
    cycles = tuple((lane, int(ticks * times)) for lane, ticks in pattern.rules.cycles)
    words = f"Written in notes {'twice' if times > 1 else 'half'} as long, at {tempo.main_bpm:.4g} BPM"
    if feel.spots:
        words += "; what single spots had of their own is taken off"
    return words, document.with_groove(
        hits=hits, bars=int(length // frame.first.bar_ticks), grid=_grid(pattern.grid, times), lane_grids=lanes,
        passages=passages, rules=replace(pattern.rules, cycles=cycles), tempo=tempo, feel=after,
    )  # fmt: skip


def _grid(grid: int, times: float) -> int:
    return max(int(grid / times), 1)


def _in_unit(swing: Swing, times: float) -> Swing:
    unit = int(swing.unit / times)
    if swing.straight:
        return swing
    if unit not in SWING_UNITS:
        raise InputError(f"A swing of {swing.unit}ths would become one of {unit}ths: only 8ths and 16ths swing.")
    return Swing(unit, swing.ratio)
