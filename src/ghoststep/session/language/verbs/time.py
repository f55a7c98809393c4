"""Verbs of time: bars, insertions, meter, grids, lanes that repeat, copying and pasting."""

from dataclasses import replace

from ghoststep.music.errors import InputError
from ghoststep.music.kit import LANE_OF_VOICE, voices_of
from ghoststep.music.meter import Meter
from ghoststep.session.edits import hit_edits as edits
from ghoststep.session.edits import shelf, time_edits
from ghoststep.session.edits import touch_edits as touch
from ghoststep.session.language.arguments import bars_of, grid_of, relative, ticks_of, whole
from ghoststep.session.language.language import Done, Stand, edited, settled, verb
from ghoststep.session.language.verbs.hits import step_here


@verb("copy", "", "puts hits aside for pasting", on_hits=True)
def _copy(stand: Stand, _words: list[str]) -> Done:
    taken = shelf.copied(stand.document, stand.hits)
    count = len(taken.hits)
    return f"{count} hit{'s' if count != 1 else ''} copied", replace(stand, shelf=taken)


@verb("cut", "", "puts hits aside and takes them away", on_hits=True)
def _cut(stand: Stand, _words: list[str]) -> Done:
    taken = shelf.copied(stand.document, stand.hits)
    said, after = edited(stand, edits.remove_hits(stand.document, stand.hits))
    return said, replace(after, shelf=taken)


@verb("paste", "[here]", "into the cursor's bar at the same spots, or with the first hit at the cursor")
def _paste(stand: Stand, words: list[str]) -> Done:
    if words not in ([], ["here"]):
        raise InputError("Say paste, or paste here.")
    edit = shelf.paste(
        stand.document, stand.shelf, cursor_ticks=stand.cursor_ticks, lane=stand.lane, here=words == ["here"]
    )
    return edited(replace(stand, chosen=frozenset()), edit)


def _bar(stand: Stand, words: list[str]) -> int:
    return whole(words, "a bar") if words else stand.bar


@verb("double-bar", "[BAR]", "the same bar once more after it")
def _double(stand: Stand, words: list[str]) -> Done:
    return settled(stand, touch.duplicate_bar(stand.document, _bar(stand, words)))


@verb("delete-bar", "[BAR]", "takes a bar out")
def _delete_bar(stand: Stand, words: list[str]) -> Done:
    return settled(stand, touch.delete_bar(stand.document, _bar(stand, words)))


@verb("bars", "N|+N|-N", "so many bars: empty ones are added, the last ones dropped")
def _bars(stand: Stand, words: list[str]) -> Done:
    count = whole(words, "a number of bars")
    if relative(words):
        count += stand.document.groove.pattern.bars
    if count < 1:
        raise InputError("A groove has at least one bar.")
    return settled(stand, edits.set_bars(stand.document, count))


@verb("insert", "LENGTH", "room at the cursor: what follows moves later")
def _insert(stand: Stand, words: list[str]) -> Done:
    ticks = ticks_of(words, stand.document.groove.pattern, step_here(stand))
    return settled(stand, time_edits.insert_time(stand.document, stand.cursor_ticks, ticks))


@verb("delete", "LENGTH", "takes time out from the cursor on: what follows moves earlier")
def _delete(stand: Stand, words: list[str]) -> Done:
    ticks = ticks_of(words, stand.document.groove.pattern, step_here(stand))
    return settled(stand, time_edits.delete_time(stand.document, stand.cursor_ticks, ticks))


@verb("mirror", "", "turns hits round in time", on_hits=True)
def _mirror(stand: Stand, _words: list[str]) -> Done:
    return edited(stand, time_edits.mirror(stand.document, stand.hits))


@verb("rotate", "STEPS", "the cursor's lane so many steps later (-: earlier), round the end")
def _rotate(stand: Stand, words: list[str]) -> Done:
    return settled(stand, touch.rotate_lane(stand.document, stand.lane, whole(words, "a number of steps")))


@verb("meter", "7/8 [2+2+3]", "another meter over the same hits")
def _meter(stand: Stand, words: list[str]) -> Done:
    return settled(stand, time_edits.set_meter(stand.document, Meter.parse(" ".join(words))))


@verb("grid", "N|NAME [VOICE | bars 2-4]", "another grid: of everything, of a voice, of some bars")
def _grid(stand: Stand, words: list[str]) -> Done:
    if not words:
        raise InputError("Which grid? For example: grid 32 bars 2, grid triplets hat, grid 16.")
    grid, rest = grid_of(words[0]), words[1:]
    if not rest:
        return settled(stand, time_edits.set_grid(stand.document, grid))
    if rest[0] in ("bar", "bars"):
        said = rest[1] if rest[1:] and rest[1] != "here" else str(stand.bar)
        bars = bars_of(said, stand.document.groove.pattern)
        return settled(stand, time_edits.set_grid(stand.document, grid, bars=sorted(bars)))
    return settled(stand, time_edits.set_grid(stand.document, grid, voices=voices_of("_".join(rest))))


@verb("cycle", "STEPS [VOICE]", "the lane repeats after so many steps, against the bar; 0 runs through")
def _cycle(stand: Stand, words: list[str]) -> Done:
    if not words:
        raise InputError("After how many steps? For example: cycle 3 hat_pedal.")
    lane = LANE_OF_VOICE[voices_of(words[1])[0]] if len(words) > 1 else stand.lane
    return settled(stand, time_edits.set_cycle(stand.document, lane, whole([words[0]], "a number of steps")))
