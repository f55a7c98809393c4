"""Verbs that change nothing in the groove: what was done taken back, what is heard, what is asked.

They leave an `Ask` behind, which whoever did the phrase answers: the window by playing, the command line by going back
to what the groove was before.
"""

from dataclasses import replace
from typing import Annotated

from ghoststep.music.errors import InputError
from ghoststep.session.language.edit_context import Ask, Done, EditContext
from ghoststep.session.language.kinds import Amount, ManyVoices, Number, OneOf, SomeBars
from ghoststep.session.language.verb import verb
from ghoststep.session.words import these

_SPEED = Number("a share of the tempo", ("%",), low=25, high=200, signed=False, name="PERCENT")


def _asked(context: EditContext, ask: Ask, words: str) -> Done:
    return words, replace(context, asks=(*context.asks, ask))


@verb("undo", "takes the last step back")
def _undo(context: EditContext) -> Done:
    return _asked(context, Ask("undo"), "")


@verb("redo", "does again what was taken back")
def _redo(context: EditContext) -> Done:
    return _asked(context, Ask("redo"), "")


@verb("play", "plays the groove round and round, or some bars of it", example="play 2-4")
def _play(context: EditContext, bars: Annotated[set[int] | None, SomeBars()] = None) -> Done:
    if not bars:
        return _asked(context, Ask("play"), "Playing")
    if len(bars) != max(bars) - min(bars) + 1:
        raise InputError("Give bars that follow one another, such as play 2-4.")
    return _asked(context, Ask("play", bars=(min(bars), max(bars))), f"Playing {these('bar', bars).lower()}")


@verb("stop", "stops what plays")
def _stop(context: EditContext) -> Done:
    return _asked(context, Ask("stop"), "Stopped")


@verb("play-speed", "how fast it plays, in percent of its tempo, which stays", example="play-speed 75%")
def _play_speed(context: EditContext, speed: Annotated[Amount, _SPEED]) -> Done:
    return _asked(context, Ask("speed", number=speed.value / 100), f"Plays at {speed.value:g} % of the tempo")


@verb("mute", "voices that are not heard; they stay in the groove", example="mute kick")
def _mute(context: EditContext, voices: Annotated[tuple[str, ...], ManyVoices()]) -> Done:
    return _asked(context, Ask("mute", voices=voices), "Muted")


@verb("solo", "only these voices are heard; the others stay in the groove", example="solo kick snare")
def _solo(context: EditContext, voices: Annotated[tuple[str, ...], ManyVoices()]) -> Done:
    return _asked(context, Ask("solo", voices=voices), "Heard alone")


@verb("unmute", "every voice is heard again", example="unmute all")
def _unmute(context: EditContext, all: Annotated[str, OneOf("word here", ("all",))] = "all") -> Done:
    return _asked(context, Ask("unmute"), "Every voice is heard")


@verb("count-me-in", "a bar of clicks before it plays, or none", example="count-me-in on")
def _count_me_in(context: EditContext, on: Annotated[str, OneOf("way", ("on", "off"))] = "on") -> Done:
    return _asked(context, Ask("count-in", number=float(on == "on")), f"Count-in {on}")
