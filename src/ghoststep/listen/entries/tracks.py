"""Several tracks of one performance, a microphone or a drum each: what each says about the strokes of its drum.

The mix is heard like any recording. A track that is named after a drum is heard at the same candidates too, and what it
says of that drum is added to the odds: there its strokes stand far above what bleeds in. Soft strokes the mix hides
become candidates by their track, and velocities are measured there.
"""

import re
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from ghoststep.listen.signal.click_sound import found_click
from ghoststep.listen.signal.groups import NET_GROUPS
from ghoststep.listen.signal.loudness import levels_db
from ghoststep.listen.signal.onsets import candidates_s
from ghoststep.listen.signal.patches import patches, raw_patches
from ghoststep.listen.signal.spectrum import LISTEN_RATE, Floats
from ghoststep.listen.strokes.hearing import Hearing, heard_at, prepared
from ghoststep.listen.strokes.network import hear
from ghoststep.music.errors import InputError

# Words in the name of a track, and the group of drums they mean; what names no drum is part of the mix only.
_WORDS = {
    "kick": "kick", "bd": "kick", "bassdrum": "kick", "kik": "kick", "snare": "snare", "sd": "snare", "sn": "snare",
    "snr": "snare", "hat": "hat", "hats": "hat", "hh": "hat", "hihat": "hat", "tom": "toms", "toms": "toms",
    "rack": "toms", "floor": "toms", "ride": "cymbals", "crash": "cymbals", "cymbal": "cymbals", "cymbals": "cymbals",
}  # fmt: skip
_CLICK_WORDS = {"click", "metronome", "clicktrack"}
_MOST_LONGER = 2.0  # times; what differs more is no one performance
_APART_S = 0.012  # candidates of two tracks that are nearer are one
_MOST_NATS = 6.0  # that a drum's own track adds
_SURE_NATS, _FEWEST = 1.5, 3
_OVER_BLEED_DB, _NATS_PER_DB = 5.0, 0.4
_BEFORE_S = 0.055
_SPAN_DB = 56.0  # below its loudest stroke nothing of a drum is played


@dataclass(frozen=True, eq=False)
class Track:
    """One file of a performance: its name, and its samples (n,) or (n, channels) at a rate."""

    name: str
    samples: NDArray[np.float32]
    rate: int

    @property
    def length_s(self) -> float:
        return len(self.samples) / self.rate

    @property
    def _name_words(self) -> list[str]:
        return re.findall(r"[a-z]+", self.name.lower().replace("hi-hat", "hihat").replace("bass drum", "bassdrum"))

    @property
    def is_click(self) -> bool:
        """Whether its name says that it is the click the players heard."""
        return bool(_CLICK_WORDS & {*self._name_words})

    @property
    def group(self) -> str | None:
        """The drums that its name means, if any."""
        return next((_WORDS[word] for word in self._name_words if word in _WORDS), None)


def mixed(tracks: Sequence[Track]) -> tuple[Floats, int]:
    """All tracks added, as one channel, and their rate.

    Raises
    ------
    InputError
        Where the tracks are not of one rate, or one is more than twice as long as another.
    """
    first = tracks[0]
    shortest, longest = (f(tracks, key=lambda t: t.length_s) for f in (min, max))
    if longest.length_s > _MOST_LONGER * shortest.length_s:
        raise InputError(
            f"{longest.name} lasts {longest.length_s:.2f} s and {shortest.name} {shortest.length_s:.2f} s: several"
            " files are listened to together, as tracks of one performance. To hear each by itself, give their folder."
        )
    for track in tracks[1:]:
        if track.rate != first.rate:
            raise InputError(
                f"{track.name} has {track.rate} Hz and {first.name} {first.rate} Hz: tracks of one performance are"
                " listened to together, and have one rate."
            )
    out = np.zeros(max(len(t.samples) for t in tracks), np.float32)
    for track in tracks:
        out[: len(track.samples)] += _mono(track.samples)
    return out, first.rate


def as_long(tracks: Sequence[Track]) -> list[Track]:
    """The tracks as long as the longest: they begin together, and the shorter ones end in silence."""
    length = max(len(t.samples) for t in tracks)
    out = []
    for t in tracks:
        silence = np.zeros((length - len(t.samples), *t.samples.shape[1:]), np.float32)
        out.append(replace(t, samples=np.concatenate([t.samples, silence])) if len(silence) else t)
    return out


def _mono(samples: NDArray[np.float32]) -> Floats:
    return samples if samples.ndim == 1 else np.asarray(samples.mean(axis=1, dtype=np.float32))


def listen_together(tracks: Sequence[Track], *, progress: Callable[[float], None] = lambda share: None) -> Hearing:
    """Hear the drums in several tracks of one performance.

    Parameters and errors are those of `hearing.listen`, and of `mixed`.
    """
    tracks = as_long(tracks)
    drums = [t for t in tracks if not t.is_click] or list(tracks)
    clicks = [t for t in tracks if t.is_click and _sounds(t)]
    mix, rate = mixed(drums)
    named = [(t.group, prepared(t.samples, rate)) for t in drums if t.group and _sounds(t)]
    sound = prepared(mix, rate)
    click = found_click(prepared(clicks[0].samples, rate)) if clicks else None
    moments = candidates_s(sound)
    for _, own in named:
        moments = _joined(moments, candidates_s(own))
    progress(0.2)
    given = np.zeros((len(moments), len(NET_GROUPS)))
    levels: dict[int, NDArray[np.float64]] = {}
    mix_odds = _odds(sound, moments, levels_db(sound, moments))
    for group, own in named:
        g = NET_GROUPS.index(group)
        at_own = levels_db(own, moments)
        said = np.clip(_odds(own, moments, at_own)[:, g], -_MOST_NATS, _MOST_NATS)
        rise_db = at_own[:, g] - levels_db(own, np.maximum(moments - _BEFORE_S, 0))[:, g]
        said = np.maximum(said, _over_bleed(at_own[:, g], rise_db, mix_odds, g))
        # Of several tracks of one drum (in and out, top and bottom) the surest counts.
        given[:, g] = np.where(np.abs(said) > np.abs(given[:, g]), said, given[:, g])
        levels[g] = np.maximum(levels[g], at_own[:, g]) if g in levels else at_own[:, g]
    found = heard_at(sound, moments, given=given.astype(np.float32), levels=levels, progress=progress)
    return replace(found, click=click)


def _odds(sound: Floats, moments_s: NDArray[np.float64], level_db: NDArray[np.float64]) -> Floats:
    """Log-odds of each group at moments of one track; shape (n, groups)."""
    seen = patches(raw_patches(sound, moments_s), moments_s, level_db)
    return hear(seen, moments_s, level_db).group_odds


def _over_bleed(
    level_db: NDArray[np.float64], rise_db: NDArray[np.float64], mix_odds: Floats, g: int
) -> NDArray[np.float64]:
    """What speaks for a stroke: how far a drum's own track stands over what bleeds into it, and over what rang just
    before, in log-odds; shape (n,).

    What bleeds in is told by the candidates at which the mix is sure of other drums and not of this one.
    """
    others = np.delete(mix_odds, g, axis=1).max(axis=1) > _SURE_NATS
    bleeding = level_db[others & (mix_odds[:, g] < -_SURE_NATS)]
    usual_db = float(np.median(bleeding)) if len(bleeding) >= _FEWEST else float(np.min(level_db, initial=0.0))
    loudest_db = float(np.max(level_db, initial=-300.0))
    over_db = np.minimum(level_db - max(usual_db, loudest_db - _SPAN_DB), rise_db) - _OVER_BLEED_DB
    return np.clip(_NATS_PER_DB * over_db, -_MOST_NATS, _MOST_NATS)


def _sounds(track: Track) -> bool:
    return len(track.samples) > LISTEN_RATE // 20 and bool(np.abs(track.samples).max() > 1e-4)


def _joined(one: NDArray[np.float64], other: NDArray[np.float64]) -> NDArray[np.float64]:
    """Moments of both, ascending, those of the other only where the one has none near."""
    if not len(one):
        return other
    away = np.abs(one[np.clip(np.searchsorted(one, other), 0, len(one) - 1)] - other)
    before = np.abs(one[np.clip(np.searchsorted(one, other) - 1, 0, len(one) - 1)] - other)
    return np.sort(np.concatenate([one, other[np.minimum(away, before) > _APART_S]]))
