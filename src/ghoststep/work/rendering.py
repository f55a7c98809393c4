"""Rendering a groove to sound files: once through, as an exact loop or with what rings on, several times, in stems.

Sound is mixed and written in blocks, so that a groove of a thousand bars needs the memory of a few seconds.
"""

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from pathlib import Path

import numpy as np

from ghoststep.feel.perform import perform_passes
from ghoststep.files.safe import write_whole
from ghoststep.files.sound import sound_writer
from ghoststep.music.errors import InputError
from ghoststep.music.groove import Groove
from ghoststep.music.performance import Performance
from ghoststep.sound.kit import Kit
from ghoststep.sound.render import Stereo, rendered_blocks

Progress = Callable[[float], None]
MAX_REPEAT = 1000


@dataclass(frozen=True)
class Rendering:
    """What to render.

    loop: exactly the loop, its length to the sample, with what rings over its end and what comes early folded round;
    else the groove with what rings on after it, begun early enough for the first hit. repeat: how many times the groove
    is played.
    """

    groove: Groove
    kit: Kit
    loop: bool = False
    repeat: int = 1

    def __post_init__(self) -> None:
        if not 1 <= self.repeat <= MAX_REPEAT:
            raise InputError(f"A groove is rendered 1 to {MAX_REPEAT} times over, not {self.repeat}.")


def blocks_of(
    what: Rendering, voices: tuple[str, ...] | None = None, progress: Progress = lambda share: None
) -> Iterator[Stereo]:
    """The sound block by block; with voices only these sound, in time with all the others."""
    played = perform_passes(what.groove, what.repeat)
    if what.loop:
        yield _folded(played, what.kit, voices, progress)
        return
    lead_s = max(0.0, -float(played.onset_s.min(initial=0.0)))
    yield from rendered_blocks(played, what.kit, lead_s=lead_s, voices=voices, progress=progress)


def _folded(played: Performance, kit: Kit, voices: tuple[str, ...] | None, progress: Progress) -> Stereo:
    """Exactly the loop: what rings over the end sounds at the start, what comes before the start at the end."""
    length = round(played.length_s * kit.rate)
    lead_s = max(0.0, -float(played.onset_s.min(initial=0.0)))
    lead = round(lead_s * kit.rate)
    out = np.zeros((length, 2), np.float32)
    at = -lead
    for block in rendered_blocks(played, kit, lead_s=lead_s, voices=voices, progress=progress, around=True):
        places = (at + np.arange(len(block))) % length
        if len(block) <= length - places[0]:
            out[places[0] : places[0] + len(block)] += block
        else:
            np.add.at(out, places, block)
        at += len(block)
    return out


def render_to(
    path: Path, what: Rendering, *, voices: tuple[str, ...] | None = None, progress: Progress = lambda share: None
) -> float:
    """Render into a WAV or FLAC file; how long the groove is in seconds, all repeats together.

    Raises
    ------
    InputError
        Where it cannot be written.
    """
    write_whole(path, sound_writer(path, lambda: blocks_of(what, voices, progress), what.kit.rate))
    return what.groove.length_s * what.repeat
