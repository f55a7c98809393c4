"""Verbs of the feel and the tempo of the whole groove."""

from typing import Annotated

from ghoststep.music.errors import InputError
from ghoststep.music.feel import Swing
from ghoststep.session.edits import feel_edits, time_edits
from ghoststep.session.edits import hit_edits as edits
from ghoststep.session.language.edit_context import Done, EditContext, settled
from ghoststep.session.language.kinds import Amount, Number, OneOf, SomeBars, SomeVoices, TheSwing
from ghoststep.session.language.verb import After, verb

BPM = Number("a tempo in BPM", ("BPM", "%"), low=10, high=960)
_PLAIN_BPM = Number("a tempo in BPM", ("BPM",), low=10, high=960, signed=False, name="BPM")


@verb(
    "tempo",
    "a tempo in BPM, a change (+5), a share of it (75 %), or a ramp to another; for all or for some bars",
    example="tempo 96 to 120 bars 3-4",
)
def _tempo(
    context: EditContext,
    bpm: Annotated[Amount, BPM],
    to: Annotated[Amount | None, After("to", _PLAIN_BPM)] = None,
    bars: Annotated[set[int] | None, After("bars", SomeBars())] = None,
    leans: Annotated[str, After("leans", OneOf("way of leans", ("keep", "scale")))] = "keep",
) -> Done:
    words, after = _at_tempo(context, bpm, to, bars)
    if leans == "keep" or after.document is context.document:
        return words, after
    old, new = (s.document.groove.tempo.main_bpm for s in (context, after))
    return settled(context, (f"{words}, leans scaled", feel_edits.with_leans_scaled(after.document, old / new)))


def _at_tempo(context: EditContext, bpm: Amount, to: Amount | None, bars: set[int] | None) -> Done:
    document, map_ = context.document, context.document.groove.tempo
    if bars or to is not None:
        pattern = document.groove.pattern
        first, last = (min(bars), max(bars)) if bars else (1, pattern.bars)
        if bars and len(bars) != last - first + 1:
            raise InputError("Give bars that follow one another, such as bars 3-4.")
        here = map_.bpm_at(pattern.frame.start_of(first))
        value = here * bpm.value / 100 if bpm.unit == "%" else bpm.onto(here)
        return settled(context, time_edits.set_tempo_of_bars(document, first, last, value, to.value if to else None))
    if bpm.unit == "%":
        if not bpm.value > 0:
            raise InputError("A share of the tempo lies above 0 %.")
        share = (100 + bpm.value if bpm.relative else bpm.value) / 100
        return settled(context, time_edits.change_tempo(document, times=share))
    if bpm.relative:
        return settled(context, time_edits.change_tempo(document, by_bpm=bpm.value))
    return settled(context, time_edits.set_tempo(document, bpm.value))


@verb("swing", "the share of the first note of a pair; 50 % is straight", example="swing 16ths 57%")
def _swing(
    context: EditContext,
    swing: Annotated[Swing, TheSwing()],
    voices: Annotated[tuple[str, ...], After("for", SomeVoices())] = (),
) -> Done:
    if voices:
        return settled(context, feel_edits.limits_told(feel_edits.set_voice_swing(context.document, swing, voices)))
    return settled(context, edits.set_swing(context.document, swing))


@verb("lean", "early (-) or late, by voice or group", example="lean snare 12")
def _lean(
    context: EditContext,
    voices: Annotated[tuple[str, ...], SomeVoices()],
    ms: Annotated[Amount, Number("a time in ms", ("ms",), low=-200, high=200, name="MS")],
) -> Done:
    return settled(context, feel_edits.limits_told(edits.set_lean(context.document, voices, ms.value)))


@verb("loose", "the spread of the timing", example="loose 5", also=("looseness",))
def _loose(
    context: EditContext,
    ms: Annotated[Amount, Number("a time in ms", ("ms",), low=0, high=50, signed=False, name="MS")],
) -> Done:
    return settled(context, edits.set_looseness(context.document, ms.value, context.document.groove.feel.take))


@verb("take", "which of the possible takes of the looseness", example="take +1")
def _take(context: EditContext, number: Annotated[Amount, Number("a take", low=0, high=2**31 - 1, whole=True)]) -> Done:
    feel = context.document.groove.feel
    return settled(context, edits.set_looseness(context.document, feel.loose_ms, int(number.onto(feel.take))))


@verb("straighten", "everything dead on the grid")
def _straighten(context: EditContext) -> Done:
    return settled(context, edits.straighten(context.document))


@verb("as-heard", "back to what was heard in the recording")
def _as_heard(context: EditContext) -> Done:
    return settled(context, edits.as_heard(context.document))
