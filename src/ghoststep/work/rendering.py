"""Rendering a groove to sound files: once through, as an exact loop or with what rings on, several times, in stems.

Sound is mixed and written in blocks, so that a groove of a thousand bars needs the memory of a few seconds.
"""

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from ghoststep.feel.ornaments import spelled_out
from ghoststep.feel.perform import perform_passes
from ghoststep.files.safe import write_whole
from ghoststep.files.sound_out import PLAIN, SoundForm, sound_writer
from ghoststep.music.errors import InputError
from ghoststep.music.groove import Groove
from ghoststep.music.kit import LIMB_LETTERS, VOICE_NAMES
from ghoststep.music.performance import Performance
from ghoststep.sound.kit import Kit
from ghoststep.sound.render import Stereo, rendered_blocks

Progress = Callable[[float], None]
MAX_REPEAT = 1000


@dataclass(frozen=True)
class Rendering:
    """What to render.

    loop: exactly the loop, its length to the sample, with what rings over its end and what comes early folded round;
    else the groove with what rings on after it. Where a stroke is earlier than bar 1, one empty bar stands in front, as
    in a MIDI file, so that bar 1 lies on a bar line. repeat: how many times the groove is played.
    """

    groove: Groove
    kit: Kit
    loop: bool = False
    repeat: int = 1

    def __post_init__(self) -> None:
        if not 1 <= self.repeat <= MAX_REPEAT:
            raise InputError(f"A groove is rendered 1 to {MAX_REPEAT} times over, not {self.repeat}.")

    @property
    def lead_s(self) -> float:
        """How long the empty bar (or bars) in front is, 0 where nothing is earlier than bar 1 or it is folded round."""
        return 0.0 if self.loop else self.bars_ahead_s

    @property
    def bars_ahead_s(self) -> float:
        """How long the whole bars are that hold what is earlier than bar 1."""
        early_s = -float(perform_passes(self.groove, self.repeat).onset_s.min(initial=0.0))
        bar = self.groove.pattern.frame.length_of(1)
        bar_s = bar * self.groove.tempo.tick_seconds(0)
        return float(np.ceil(early_s / bar_s)) * bar_s if early_s > 0 else 0.0

    @property
    def lead_words(self) -> str:
        """What is to be told of that; "" where there is nothing."""
        if self.loop and self.bars_ahead_s:
            return "what is earlier than bar 1 stands at the end of the loop"
        return f"{LEAD_WORDS}: bar 1 begins at {self.lead_s:.3f} s" if self.lead_s else ""


LEAD_WORDS = "it begins with one empty bar, since a hit is earlier than bar 1"


@dataclass(frozen=True)
class Stem:
    """A part of the mix. by: "voice", "limb" or "microphone"; which: its name."""

    by: str
    which: str

    def kit(self, kit: Kit) -> Kit:
        """The kit as it is heard in this stem."""
        return kit.only(self.which) if self.by == "microphone" else kit

    def sounding(self, groove: Groove, repeat: int) -> NDArray[np.bool_] | None:
        """Which strokes of the groove that is spelled out sound in it, all repeats; None is all."""
        if self.by == "microphone":
            return None
        hits = groove.pattern.hits
        mine = [(h.voice if self.by == "voice" else h.limb_letter) == self.which for h in hits]
        return np.tile(np.array(mine, bool), repeat)


STEMS_BY = ("voice", "limb", "microphone")


def stems_of(what: Rendering, by: str) -> tuple[Stem, ...]:
    """The stems of a rendering that sound at all."""
    if by == "microphone":
        return tuple(Stem(by, name) for name in what.kit.microphones)
    hits = spelled_out(what.groove).pattern.hits
    if by == "voice":
        return tuple(Stem(by, name) for name in VOICE_NAMES if any(h.voice == name for h in hits))
    return tuple(Stem(by, letter) for letter in LIMB_LETTERS if any(h.limb_letter == letter for h in hits))


def blocks_of(what: Rendering, stem: Stem | None = None, progress: Progress = lambda share: None) -> Iterator[Stereo]:
    """The sound block by block; of a stem only what belongs to it, in time with all else."""
    groove = spelled_out(what.groove)
    played = perform_passes(groove, what.repeat)
    sounding = stem.sounding(groove, what.repeat) if stem else None
    kit = stem.kit(what.kit) if stem else what.kit
    if what.loop:
        yield _folded(what, kit, played, sounding, progress)
        return
    yield from rendered_blocks(played, kit, lead_s=what.lead_s, sounding=sounding, progress=progress)


def stem_blocks(what: Rendering, stem: Stem, frames: Callable[[], int]) -> Iterator[Stereo]:
    """A stem of a groove, block by block, with silence behind it up to as many samples as the mix has."""
    written = 0
    for block in blocks_of(what, stem):
        written += len(block)
        yield block
    if missing := frames() - written:
        yield np.zeros((max(missing, 0), 2), np.float32)


class Counted:
    """Blocks of sound that are counted as they go by."""

    def __init__(self, what: Rendering) -> None:
        self._what = what
        self.frames = 0

    def blocks(self) -> Iterator[Stereo]:
        """The blocks of the mix."""
        self.frames = 0
        for block in blocks_of(self._what):
            self.frames += len(block)
            yield block


def _folded(
    what: Rendering, kit: Kit, played: Performance, sounding: NDArray[np.bool_] | None, progress: Progress
) -> Stereo:
    """Exactly the loop: what rings over the end sounds at the start, what comes before the start at the end."""
    length = round(played.length_s * kit.rate)
    lead_s = what.bars_ahead_s  # as without folding, so that every stroke sounds the same there
    lead = round(lead_s * kit.rate)
    out = np.zeros((length, 2), np.float32)
    at = -lead
    for block in rendered_blocks(played, kit, lead_s=lead_s, sounding=sounding, progress=progress, around=True):
        places = (at + np.arange(len(block))) % length
        if len(block) <= length - places[0]:
            out[places[0] : places[0] + len(block)] += block
        else:
            np.add.at(out, places, block)
        at += len(block)
    return out


def render_to(
    path: Path, what: Rendering, *, form: SoundForm = PLAIN, progress: Progress = lambda share: None
) -> float:
    """Render into a sound file; how long the groove is in seconds, all repeats together.

    Raises
    ------
    InputError
        Where it cannot be written.
    """
    write_whole(path, sound_writer(path, lambda: blocks_of(what, None, progress), what.kit.rate, form))
    return what.groove.length_s * what.repeat
