"""Feels of files and of the shelf, and feels laid on grooves."""

from collections.abc import Collection
from dataclasses import replace
from pathlib import Path

import numpy as np

from ghoststep.feel.measure import Measured, measured
from ghoststep.feel.perform import steady_velocities
from ghoststep.feel.transfer import laid_on
from ghoststep.files.feel_file import read_feel
from ghoststep.files.feels import feel_named
from ghoststep.files.keymap import KeyMap
from ghoststep.files.places import FEEL_SUFFIX
from ghoststep.listen.bars.reading import Hints
from ghoststep.music.feel import Feel
from ghoststep.music.groove import Groove
from ghoststep.music.kit import voice
from ghoststep.music.player import Touch, Wander
from ghoststep.work.formats import is_listenable, plain_name
from ghoststep.work.grooves import hear_file
from ghoststep.work.hits_heard import Progress
from ghoststep.work.opening import open_groove


def is_feel(path: Path) -> bool:
    return path.name.lower().endswith(FEEL_SUFFIX)


def measured_file(path: Path, keys: KeyMap, progress: Progress = lambda share: None) -> tuple[Measured, str]:
    """The feel of what is played in a recording, a MIDI file, a table, a project or a text grid, and its name.

    What can be listened to is: swing is then told from straight notes that are late.

    Raises
    ------
    InputError
        Where the file cannot be read or holds no stroke.
    """
    if not is_listenable(path):
        return measured(open_groove(path, keys)), plain_name(path)
    document = hear_file(path, keys, Hints(), progress)
    found = measured(document.groove)
    by_click = document.listening is not None and document.listening.explained.by_click
    return (found if by_click else on_its_own_pulse(found)), plain_name(path)


def on_its_own_pulse(found: Measured) -> Measured:
    """What was measured without a click to hold it against: a drum that plays alone is its own pulse, and leans on
    nothing."""
    lean, counts = found.feel.lean_ms, found.counts
    if len({voice(name).group for name in lean}) != 1:
        return found
    total = sum(counts.get(name, 0) for name in lean)
    middle = sum(ms * counts.get(name, 0) for name, ms in lean.items()) / max(total, 1)
    own = {name: round(ms - middle, 4) + 0.0 for name, ms in lean.items()}
    return replace(found, feel=replace(found.feel, lean_ms=own))


def feel_from(text: str, keys: KeyMap) -> tuple[Feel, str]:
    """A feel by the name of its file or by its name on the shelf; or that of a recording or groove; and its name."""
    path = Path(text)
    if is_feel(path):
        feel, name, _ = read_feel(path)
        return feel, name
    if path.exists():
        found, name = measured_file(path, keys)
        return found.feel, name
    shelved = feel_named(text)
    return shelved.feel, shelved.name


def laid(
    feel: Feel, groove: Groove, touch_percent: float, time_percent: float, voices: Collection[str] | None = None
) -> tuple[Groove, tuple[str, ...]]:
    """A groove with a player's feel laid on it, each so far in percent; and how it was mapped."""
    new, words = laid_on(feel, groove, touch=touch_percent / 100, time=time_percent / 100, voices=voices)
    return groove.changed(feel=new), words


def three_to_judge(groove: Groove, seed: int) -> list[tuple[str, Groove]]:
    """A player's own bars, a take of ours by the same player, and straight dice of the same spread, for a blind choice.

    The take and the dice are played on the same pattern with nothing of its own left; both have the player's swing,
    leans and means of velocity. The take wanders as the player does, the dice are independent from stroke to stroke.
    """
    found = measured(groove)
    bare = groove.changed(
        hits=tuple(h if h.grace else replace(h, offset_ms=0.0) for h in groove.pattern.hits), feel=Feel()
    )
    player, _ = laid_on(found.feel, bare)
    take = bare.changed(feel=replace(player, take=seed, frozen=True))
    still = replace(player, loose_ms=0.0, wander=Wander())
    dice = np.random.default_rng(seed)
    thrown = []
    levels = steady_velocities(bare.changed(feel=still)) or [h.velocity for h in bare.pattern.hits]
    for h, level in zip(bare.pattern.hits, levels, strict=True):
        late_ms, louder = dice.normal(0, 1, 2) * (found.feel.loose_ms, found.feel.wander.velocity)
        velocity = int(np.clip(round(level + louder), 1, 127))
        thrown.append(h if h.grace else replace(h, offset_ms=h.offset_ms + float(late_ms), velocity=velocity))
    spots = tuple(replace(s, levels=(0.0, 0.0, 0.0)) for s in still.spots)
    untouched = replace(still, touch=Touch(), spots=spots, own_share=1.0)
    straight = groove.changed(hits=tuple(thrown), feel=untouched)
    return [("the player", groove), ("a take of ours", take), ("straight dice", straight)]
