"""Verbs that change nothing in the groove: what was done taken back, what is heard, what is asked.

They leave an `Ask` behind, which whoever did the phrase answers: the window by playing, the command line by going back
to what the groove was before.
"""

from dataclasses import replace
from typing import Annotated

from ghoststep.music.errors import InputError
from ghoststep.music.kit import LIMB_LETTERS
from ghoststep.session.language.edit_context import Ask, Done, EditContext
from ghoststep.session.language.kinds import Amount, ManyVoices, Number, OneOf, SomeBars
from ghoststep.session.language.verb import After, verb
from ghoststep.session.words import count, these
from ghoststep.sound.click import NOTES

_SPEED = Number("a share of the tempo", ("%",), low=25, high=200, signed=False, name="PERCENT")


_PASSES = Number("a number of passes", low=1, high=8, whole=True, signed=False, name="N")
_CLICK_BARS = Number("a number of bars", low=0, high=16, whole=True, signed=False, name="N")
_DECIBELS = Number("decibels", ("db",), low=-40, high=12, name="DB")


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


class _Limbs:
    """Limbs by letter."""

    usage = "R|L|K|H"

    def take(self, words: list[str], context: EditContext) -> tuple[tuple[str, ...], list[str]]:
        letters = tuple(dict.fromkeys(w.upper() for w in words if w.lower() not in ("and", ",")))
        if not letters or not set(letters) <= set(LIMB_LETTERS):
            raise InputError("Which limbs? R and L are the hands, K and H the feet. For example: rest-limb L.")
        return letters, []


@verb("rest-limb", "limbs that are not heard; their strokes stay in the groove", example="rest-limb L")
def _rest_limb(context: EditContext, limbs: Annotated[tuple[str, ...], _Limbs()]) -> Done:
    return _asked(context, Ask("rest", player="".join(limbs)), f"Not heard: {' and '.join(limbs)}")


@verb("build-up", "limbs come in one after the other while it plays", example="build-up feet-first passes 2")
def _build_up(
    context: EditContext,
    order: Annotated[str, OneOf("order", ("feet-first", "hands-first", "off"))],
    passes: Annotated[Amount | None, After("passes", _PASSES)] = None,
) -> Done:
    number = passes.value if passes else 2
    words = "All limbs together" if order == "off" else f"Built up {order.replace('-', ' ')}, {number:g} passes each"
    return _asked(context, Ask("build-up", player=order, number=number), words)


@verb("play-click", "a click while it plays: on which notes, for how many bars and silent ones, how loud",
      example="play-click eighth bars 2 silent 2")  # fmt: skip
def _click(
    context: EditContext,
    notes: Annotated[str, OneOf("click", ("on", "off", *NOTES))] = "on",
    bars: Annotated[Amount | None, After("bars", _CLICK_BARS)] = None,
    silent: Annotated[Amount | None, After("silent", _CLICK_BARS)] = None,
    level: Annotated[Amount | None, After("level", _DECIBELS)] = None,
) -> Done:
    some = (int(bars.value) if bars else 1, int(silent.value) if silent else 0)
    told = "" if notes in ("on", "off") else f" on every {notes}" if notes != "backbeat" else " on 2 and 4"
    if some[1]:
        told += f", {count(some[0], 'bar')} of it and {some[1]} silent"
    words = "No click" if notes == "off" else f"Click{told}"
    return _asked(context, Ask("click", bars=some, player=notes, number=level.value if level else 0.0), words)


@verb("unmute", "every voice is heard again", example="unmute all")
def _unmute(context: EditContext, all: Annotated[str, OneOf("word here", ("all",))] = "all") -> Done:
    return _asked(context, Ask("unmute"), "Every voice is heard")


@verb("count-me-in", "a bar of clicks before it plays, or none", example="count-me-in on")
def _count_me_in(context: EditContext, on: Annotated[str, OneOf("way", ("on", "off"))] = "on") -> Done:
    return _asked(context, Ask("count-in", number=float(on == "on")), f"Count-in {on}")
