"""Verbs of the feel and the tempo of the whole groove."""

from ghoststep.music.errors import InputError
from ghoststep.music.feel import Swing
from ghoststep.music.kit import voices_of
from ghoststep.session.edits import hit_edits as edits
from ghoststep.session.language.arguments import number, relative, whole
from ghoststep.session.language.language import Done, Stand, settled, verb


@verb("tempo", "BPM", "one tempo from start to end")
def _tempo(stand: Stand, words: list[str]) -> Done:
    bpm = number(words, "a tempo in BPM")
    if relative(words):
        bpm += stand.document.groove.tempo.main_bpm
    return settled(stand, edits.set_tempo(stand.document, bpm))


@verb("swing", "UNIT:RATIO", "16:0.57 or 8:67%; 16:0.5 is straight")
def _swing(stand: Stand, words: list[str]) -> Done:
    return settled(stand, edits.set_swing(stand.document, Swing.parse("".join(words))))


@verb("lean", "VOICE MS", "early (-) or late, by voice or group")
def _lean(stand: Stand, words: list[str]) -> Done:
    if len(words) < 2:
        raise InputError("A lean needs a voice and ms, for example: lean snare 12.")
    return settled(stand, edits.set_lean(stand.document, voices_of(words[0]), number(words[1:], "a time in ms")))


@verb("loose", "MS", "the spread of the timing")
def _loose(stand: Stand, words: list[str]) -> Done:
    take = stand.document.groove.feel.take
    return settled(stand, edits.set_looseness(stand.document, number(words, "a time in ms"), take))


@verb("take", "N|+1", "which of the possible takes of the looseness")
def _take(stand: Stand, words: list[str]) -> Done:
    feel = stand.document.groove.feel
    number_of = whole(words, "a take") + (feel.take if relative(words) else 0)
    return settled(stand, edits.set_looseness(stand.document, feel.loose_ms, number_of))


@verb("straighten", "", "everything dead on the grid")
def _straighten(stand: Stand, _words: list[str]) -> Done:
    return settled(stand, edits.straighten(stand.document))


@verb("as-heard", "", "back to what was heard in the recording")
def _as_heard(stand: Stand, _words: list[str]) -> Done:
    return settled(stand, edits.as_heard(stand.document))
