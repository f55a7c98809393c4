"""What a listener cannot make out: roles that are not apart, flams too wide for the tempo, drums that bury others."""

from collections.abc import Iterator

import numpy as np

from ghoststep.judge.finding import Finding, keys_of
from ghoststep.judge.played import Played
from ghoststep.judge.words import at_words, began, the_voice
from ghoststep.music.kit import voice
from ghoststep.music.touch import ROLE_VELOCITY, Role, level_db

_APART = 10.0  # velocities between two roles of a voice, below which they are not told apart (working assumption)
_FLAM_S, _FLAM_SHARE = 0.05, 0.45  # the widest flam, and its share of the way to the stroke before
_BURIED_DB, _BEHIND_DB = 4.0, 9.0  # hats over the backbeat; kick and snare apart
_ORDER = (Role.GHOST, Role.NORMAL, Role.ACCENT)


def unclear(played: Played) -> Iterator[Finding]:
    """Ghosts that are none, roles that are not apart, and flams that fall apart."""
    s = played.sounded
    for name in dict.fromkeys(s.voices.tolist()):
        levels = {role: s.velocity[s.of(name, role)] for role in _ORDER}
        yield from _loud_ghosts(played, name, levels)
        for low, high in ((Role.GHOST, Role.NORMAL), (Role.NORMAL, Role.ACCENT)):
            yield from _near(played, name, low, high, levels)
    yield from _wide_flams(played)


def _loud_ghosts(played: Played, name: str, levels: dict[Role, np.ndarray]) -> Iterator[Finding]:
    ghosts, normals = levels[Role.GHOST], levels[Role.NORMAL]
    if not len(ghosts) or not len(normals):
        return
    s = played.sounded
    loud = [k for k in s.of(name, Role.GHOST) if s.velocity[k] >= normals.mean()]
    if loud:
        hits = [s.hits[k] for k in loud]
        why = (
            f"{len(loud)} of {len(ghosts)} ghosts of {the_voice(name)} are as loud as its normal strokes"
            f" ({normals.mean():.0f})."
        )
        mend = f"velocity {ROLE_VELOCITY[Role.GHOST]} on {name} ghosts louder {max(int(normals.mean()) - 1, 1)}"
        yield _first(played, "unclear", "loud ghosts", hits, why, 0.9, (mend,))


def _near(played: Played, name: str, low: Role, high: Role, levels: dict[Role, np.ndarray]) -> Iterator[Finding]:
    if len(levels[low]) < 2 or len(levels[high]) < 2:
        return
    apart = float(levels[high].mean() - levels[low].mean())
    if apart < _APART:
        s = played.sounded
        hits = [s.hits[k] for k in s.of(name, low)]
        told = f"{low.value}s and {high.value}s of {the_voice(name)} are {apart:.0f} apart in velocity"
        why = f"{told}: too little to tell them apart."
        mends = (
            f"velocity {ROLE_VELOCITY[low]} on {name} {low.value}s",
            f"velocity {ROLE_VELOCITY[high]} on {name} {high.value}s",
        )
        yield _first(played, "unclear", "roles not apart", hits, began(why), 0.7, mends)


def _first(played: Played, kind: str, name: str, hits: list, why: str, sure: float, mends: tuple[str, ...]) -> Finding:  # type: ignore[type-arg]
    tick = hits[0].position_ticks
    bar = played.groove.pattern.frame.spot_at(tick).bar
    voices = tuple(dict.fromkeys(h.voice for h in hits))
    return Finding(kind, name, bar, tick, played.spot(tick), voices, why, sure, mends=mends, hits=keys_of(hits))


def _wide_flams(played: Played) -> Iterator[Finding]:
    """Grace notes so far ahead that they are strokes of their own."""
    last: dict[str, float] = {}
    for cut in played.cuts:
        begin_s = float(played.groove.tempo.seconds(cut.start_tick))
        for i, s in zip(cut.indices, cut.window.strokes, strict=False):
            now = begin_s + s.second
            before = last.get(s.voice, -9.0)
            nearest = s.lead_s / max(s.graces, 1)
            if s.graces and (nearest > _FLAM_S or s.lead_s > _FLAM_SHARE * (now - before)):
                h = played.hits[i]
                why = f"The grace note of {the_voice(s.voice)} is {s.lead_s * 1000:.0f} ms ahead: too wide."
                place = at_words(played, h.position_ticks)
                mend = f"ornament none on {s.voice} {place}" if h.ornament else f"remove graces {s.voice} {place}"
                yield _first(played, "unclear", "wide flam", [h], why, 0.6, (mend,))
            last[s.voice] = now


def balance(played: Played) -> Iterator[Finding]:
    """Hats over the backbeat, and kick and snare far apart, by the levels their velocities stand for."""
    s = played.sounded
    groups = np.array([voice(v).group for v in s.voices], dtype=str)
    loud = {}
    for group, role in (("hat", None), ("kick", None), ("snare", Role.ACCENT)):
        mine = groups == group if role is None else (groups == group) & (s.roles == role.value)
        if mine.sum() >= 4:
            loud[group] = float(np.median(level_db(s.velocity[mine])))
    if "hat" in loud and "snare" in loud and loud["hat"] > loud["snare"] + _BURIED_DB:
        over = loud["hat"] - loud["snare"]
        why = f"The hats are struck {over:.0f} dB harder than the backbeats: they bury the snare."
        yield _whole("hats over the snare", ("hat_closed", "snare"), why, ("scale 80% on hat", "scale 60% on hat"))
    if "kick" in loud and "snare" in loud and abs(loud["kick"] - loud["snare"]) > _BEHIND_DB:
        behind = "kick" if loud["kick"] < loud["snare"] else "snare"
        why = f"Kick and snare are {abs(loud['kick'] - loud['snare']):.0f} dB apart: the {behind} stands behind."
        yield _whole(
            "kick and snare apart", ("kick", "snare"), why, (f"scale 120% on {behind}", f"scale 150% on {behind}")
        )


def _whole(name: str, voices: tuple[str, ...], why: str, mends: tuple[str, ...]) -> Finding:
    return Finding("balance", name, 1, 0, "1", voices, why, 0.5, mends=mends)
