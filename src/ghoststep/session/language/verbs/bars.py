"""Verbs of whole bars: copied over others, exchanged, put in, repeated, turned round."""

from typing import Annotated

from ghoststep.music.errors import InputError
from ghoststep.session.edits import bar_edits
from ghoststep.session.language.arguments import numbers
from ghoststep.session.language.edit_context import Done, EditContext, settled
from ghoststep.session.language.kinds import Amount, Number, SomeBars
from ghoststep.session.language.kinds import bars_in_a_row as row
from ghoststep.session.language.verb import After, verb

_A_BAR = Number("a bar", low=1, high=4097, whole=True, signed=False, name="BAR")


class _Goals:
    """Bars by number, which need not be there yet."""

    usage = "2-4"

    def take(self, words: list[str], context: EditContext) -> tuple[object, list[str]]:
        if not words:
            raise InputError("Over which bars? For example: copy-bar 1 to 3.")
        found = numbers(words[0], "bars")
        if min(found) < 1:
            raise InputError("Bars count from 1.")
        return found, words[1:]


@verb(
    "copy-bar",
    "what stands in some bars written over others; behind the end the groove grows",
    example="copy-bar 1-2 to 3-4",
    also=("copy-bars",),
)
def _copy_bar(
    context: EditContext,
    bars: Annotated[set[int], SomeBars()],
    to: Annotated[set[int], After("to", _Goals())],
) -> Done:
    return settled(context, bar_edits.copy_bars(context.document, sorted(bars), sorted(to)))


@verb("swap-bar", "two bars change places", example="swap-bar 2 with 4", also=("swap-bars",))
def _swap_bar(
    context: EditContext,
    bar: Annotated[Amount, _A_BAR],
    other: Annotated[Amount, After("with", _A_BAR)],
) -> Done:
    bars = context.document.groove.pattern.bars
    for wanted in (int(bar.value), int(other.value)):
        if wanted > bars:
            raise InputError(f"There is no bar {wanted}: this groove has {bars}.")
    return settled(context, bar_edits.swap_bars(context.document, int(bar.value), int(other.value)))


@verb("insert-bar", "empty bars before one, or at the end", example="insert-bar 2 before 3", also=("insert-bars",))
def _insert_bar(
    context: EditContext,
    number: Annotated[Amount, Number("a number of bars", low=1, high=4096, whole=True, signed=False)],
    before: Annotated[Amount | None, After("before", _A_BAR)] = None,
) -> Done:
    at = int(before.value) if before else context.document.groove.pattern.bars + 1
    return settled(context, bar_edits.insert_empty(context.document, int(number.value), at))


@verb("repeat", "the groove, or what of it is named, so many times: nothing else is left", example="repeat 8 of 1-2")
def _repeat(
    context: EditContext,
    times: Annotated[Amount, Number("a number of times", low=1, high=4096, whole=True, signed=False)],
    of: Annotated[set[int] | None, After("of", SomeBars())] = None,
) -> Done:
    first, last = row(of, context) if of else (1, context.document.groove.pattern.bars)
    return settled(context, bar_edits.repeat_bars(context.document, first, last, int(times.value)))


@verb("reverse-bar", "the steps of bars backwards", example="reverse-bar 2", also=("reverse-bars",))
def _reverse_bar(context: EditContext, bars: Annotated[set[int] | None, SomeBars()] = None) -> Done:
    return settled(context, bar_edits.reverse_bars(context.document, *row(bars, context)))
