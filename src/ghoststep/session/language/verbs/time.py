"""Verbs of time: bars, insertions, meter, grids, lanes that repeat, copying and pasting."""

from dataclasses import replace
from typing import Annotated

from ghoststep.music.errors import InputError
from ghoststep.music.kit import LANE_OF_VOICE, LANES
from ghoststep.music.meter import Meter
from ghoststep.session.edits import hit_edits as edits
from ghoststep.session.edits import shelf, time_edits
from ghoststep.session.edits import touch_edits as touch
from ghoststep.session.language.edit_context import Done, EditContext, edited, settled
from ghoststep.session.language.kinds import (
    Amount,
    Grid,
    Length,
    Number,
    OneOf,
    SomeBars,
    SomeVoices,
    TheMeter,
    bars_in_a_row,
)
from ghoststep.session.language.verb import After, verb
from ghoststep.session.words import count


@verb("copy", "puts hits aside for pasting", on_hits=True, example="copy on snare bars 1")
def _copy(context: EditContext) -> Done:
    taken = shelf.copied(context.document, context.hits)
    return f"{count(len(taken.hits), 'hit')} copied", replace(context, shelf=taken)


@verb("cut", "puts hits aside and takes them away", on_hits=True)
def _cut(context: EditContext) -> Done:
    taken = shelf.copied(context.document, context.hits)
    said, after = edited(context, edits.remove_hits(context.document, context.hits))
    return said, replace(after, shelf=taken)


@verb("paste", "into the cursor's bar at the same spots, or with the first hit at the cursor", example="paste here")
def _paste(context: EditContext, here: Annotated[str | None, OneOf("place to paste", ("here",))] = None) -> Done:
    edit = shelf.paste(
        context.document, context.shelf, cursor_ticks=context.cursor_ticks, lane=context.lane, here=here is not None
    )
    return edited(replace(context, chosen=frozenset()), edit)


@verb("double-bar", "the same bars once more behind them", example="double-bar 1-2", also=("double-bars",))
def _double(context: EditContext, bars: Annotated[set[int] | None, SomeBars()] = None) -> Done:
    return settled(context, time_edits.double_bars(context.document, *bars_in_a_row(bars, context)))


@verb("delete-bar", "takes bars out", example="delete-bar 3", also=("delete-bars",))
def _delete_bar(context: EditContext, bars: Annotated[set[int] | None, SomeBars()] = None) -> Done:
    return settled(context, time_edits.delete_bars(context.document, *bars_in_a_row(bars, context)))


@verb(
    "move-bar",
    "bars to another place, with their hits, meter, grid and tempo",
    example="move-bar 3-4 before 1",
    also=("move-bars",),
)
def _move_bar(
    context: EditContext,
    bars: Annotated[set[int], SomeBars()],
    before: Annotated[Amount, After("before", Number("a bar", low=1, high=4097, whole=True, signed=False, name="BAR"))],
) -> Done:
    return settled(context, time_edits.move_bars(context.document, *bars_in_a_row(bars, context), int(before.value)))


@verb("bars", "so many bars: empty ones are added, the last ones dropped", example="bars +1")
def _bars(
    context: EditContext, count: Annotated[Amount, Number("a number of bars", low=1, high=4096, whole=True)]
) -> Done:
    return settled(
        context, time_edits.set_bars(context.document, int(count.onto(context.document.groove.pattern.bars)))
    )


@verb("insert", "room at the cursor: what follows moves later", example="insert 1 step")
def _insert(context: EditContext, length: Annotated[int, Length()]) -> Done:
    return settled(context, time_edits.insert_time(context.document, context.cursor_ticks, length))


@verb("delete", "takes time out from the cursor on: what follows moves earlier", example="delete 1 step")
def _delete(context: EditContext, length: Annotated[int, Length()]) -> Done:
    return settled(context, time_edits.delete_time(context.document, context.cursor_ticks, length))


@verb("mirror", "turns hits round in time", on_hits=True, example="mirror on tom_high")
def _mirror(context: EditContext) -> Done:
    return edited(context, time_edits.mirror(context.document, context.hits))


@verb(
    "rotate",
    "a voice, or the cursor's lane, so many steps later (-: earlier), round the end",
    example="rotate 8 cross_stick",
)
def _rotate(
    context: EditContext,
    steps: Annotated[Amount, Number("a number of steps", low=-4096, high=4096, whole=True, name="STEPS")],
    voices: Annotated[tuple[str, ...] | None, SomeVoices()] = None,
) -> Done:
    return settled(context, touch.rotate(context.document, voices or LANES[context.lane].voices, int(steps.value)))


@verb(
    "meter",
    "another meter: over the same hits, or for some bars, which are cut or lengthened",
    example="meter 7/8 2+2+3 bars 3-4",
)
def _meter(
    context: EditContext,
    meter: Annotated[Meter, TheMeter()],
    bars: Annotated[set[int] | None, After("bars", SomeBars())] = None,
) -> Done:
    if bars:
        return settled(context, time_edits.set_meter_of_bars(context.document, meter, sorted(bars)))
    return settled(context, time_edits.set_meter(context.document, meter))


@verb("count", "the same bars counted in two, or in four", example="count two")
def _count(
    context: EditContext, how: Annotated[str, OneOf("way to count", ("two", "four", "toggle"))] = "toggle"
) -> Done:
    meter = context.document.groove.pattern.meter
    if context.document.groove.pattern.meter_changes or meter.denominator not in (2, 4):
        raise InputError("Only bars of one meter in halves or quarters are counted in two or in four.")
    in_two = meter.denominator == 4 if how == "toggle" else how == "two"
    if in_two and meter.numerator == 2:
        return f"{meter} is counted in two already", context
    if in_two == (meter.denominator == 2):
        return f"Counted in {'two' if in_two else 'four'} already", context
    if in_two and meter.numerator % 2:
        raise InputError(f"{meter} has an odd number of quarters, and so no halves to count.")
    new = Meter(meter.numerator // 2, 2) if in_two else Meter(meter.numerator * 2, 4)
    _, after = settled(context, time_edits.set_meter(context.document, new))
    return f"Counted in {'two' if in_two else 'four'}: {new.full_name}", after


@verb("grid", "another grid: of everything, of a voice, of some bars", example="grid triplets bars 2")
def _grid(
    context: EditContext,
    grid: Annotated[int, Grid()],
    voices: Annotated[tuple[str, ...] | None, SomeVoices()] = None,
    bars: Annotated[set[int] | None, After("bars", SomeBars())] = None,
) -> Done:
    return settled(context, time_edits.set_grid(context.document, grid, voices or (), sorted(bars or ())))


_BARS = Number("a number of bars", low=1, high=64, whole=True, signed=False, name="BARS")


@verb(
    "cycle",
    "the lane repeats after so many steps, against the bar; 0 runs through",
    example="cycle 3 hat_pedal every 2",
)
def _cycle(
    context: EditContext,
    steps: Annotated[Amount, Number("a number of steps", low=0, high=256, whole=True, signed=False, name="STEPS")],
    voices: Annotated[tuple[str, ...] | None, SomeVoices()] = None,
    every: Annotated[
        Amount | None, After("every", Number("a number of bars", low=1, high=64, whole=True, signed=False, name="BARS"))
    ] = None,
) -> Done:
    lane = LANE_OF_VOICE[voices[0]] if voices else context.lane
    return settled(
        context, time_edits.set_cycle(context.document, lane, int(steps.value), int(every.value) if every else 0)
    )


@verb(
    "own-rounds",
    "rounds of a lane that repeats which begin in some bars stand on their own: edits stay there; without bars all"
    " are alike again",
    example="own-rounds hat_pedal bars 2",
)
def _own_rounds(
    context: EditContext,
    voices: Annotated[tuple[str, ...] | None, SomeVoices()] = None,
    bars: Annotated[frozenset[int] | None, After("bars", SomeBars())] = None,
) -> Done:
    lane = LANE_OF_VOICE[voices[0]] if voices else context.lane
    return settled(context, time_edits.set_own_rounds(context.document, lane, bars))
