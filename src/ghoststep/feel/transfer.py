"""A feel laid on another part: what the player does on a spot, done on the spot of the other part that is most like it.

For each spot of the part: the very spot, where the player strikes that voice there in a bar as long; else spots at the
same place in the beat; else spots of the same weight in the bar; else what the voice does on the whole. A voice that
the player does not strike takes after the one that is most like it. What was mapped how is told in words.
"""

from collections import Counter
from collections.abc import Collection
from dataclasses import dataclass, replace

from ghoststep.feel.blend import between, swing_between, wander_between
from ghoststep.music.feel import Feel, Swing
from ghoststep.music.frame import Bars
from ghoststep.music.groove import Groove
from ghoststep.music.kit import voice
from ghoststep.music.player import ROLE_ORDER, SpotFeel
from ghoststep.music.time import TICKS_PER_QUARTER
from ghoststep.music.touch import Role

_WAYS = ("straight from the player", "by place in the beat", "by weight in the bar", "by the mean of the voice")
_GRIDS = ((8, "eighths"), (16, "sixteenths"), (32, "32nds"))


@dataclass(frozen=True)
class _Source:
    """A voice of the player with its spots."""

    name: str
    lean_ms: float
    spots: tuple[SpotFeel, ...]
    levels: dict[Role, float]


def laid_on(
    source: Feel,
    groove: Groove,
    *,
    touch: float = 1.0,
    time: float = 1.0,
    voices: Collection[str] | None = None,
) -> tuple[Feel, tuple[str, ...]]:
    """The feel of a groove once that of a player is laid on it, and what was mapped how.

    Parameters
    ----------
    touch, time
        How far each goes from the groove's own (0) to the player's (1), and beyond, to 1.5.
    voices
        Only these; None is all.
    """
    own = groove.feel
    if not touch and not time:
        return own, ("Nothing is laid on: touch and time are both at 0 %.",)
    keys = _keys_of(groove)
    chosen = [k for k in keys if voices is None or k[0] in voices]
    words: list[str] = []
    ways: Counter[str] = Counter()
    found: dict[tuple[str, int, int], SpotFeel] = {}
    leans: dict[str, float] = {}
    for name in dict.fromkeys(k[0] for k in chosen):
        player = _player(source, name)
        if player is None:
            words.append(f"{voice(name).label}: nothing like it is known, it stays as it is.")
            continue
        if player.name != name:
            words.append(f"{voice(name).label} takes after {voice(player.name).label.lower()}.")
        leans[name] = player.lean_ms
        for key in (k for k in chosen if k[0] == name):
            found[key], way = _mapped(key, player, groove.pattern.frame)
            ways[way] += 1
    words += [f"{n} spot{'s' * (n != 1)} {way}." for way in _WAYS if (n := ways[way])]
    words += _finer(source, chosen)
    return _joined(own, source, found, leans, keys, touch=touch, time=time, all_voices=voices is None), tuple(words)


def _keys_of(groove: Groove) -> list[tuple[str, int, int]]:
    """Voices and spots that the groove has, with the length of the bar."""
    frame = groove.pattern.frame
    out: dict[tuple[str, int, int], None] = {}
    for h in groove.pattern.hits:
        spot = frame.spot_at(h.position_ticks)
        out[h.voice, frame.length_of(spot.bar), spot.tick] = None
    return list(out)


def _player(source: Feel, name: str) -> _Source | None:
    """The voice of the player's that a voice takes after."""
    known = {s.voice for s in source.spots} | {row[0] for row in source.touch.levels} | set(source.lean_ms)
    if not known:  # a feel of swing and looseness alone
        return _Source(name, 0.0, (), {})
    after = next((n for n in (name, *voice(name).takes_after) if n in known), None)
    if after is None:
        return None
    levels = {role: velocity for n, role, velocity in source.touch.levels if n == after}
    return _Source(after, source.lean_of(after), tuple(s for s in source.spots if s.voice == after), levels)


def _mapped(key: tuple[str, int, int], player: _Source, frame: Bars) -> tuple[SpotFeel, str]:
    """What the player does on a spot that is like this one, and by which way that was found."""
    name, bar_ticks, at = key
    same = [s for s in player.spots if (s.bar_ticks, s.at_ticks) == (bar_ticks, at)]
    in_beat = [s for s in player.spots if s.at_ticks % TICKS_PER_QUARTER == at % TICKS_PER_QUARTER]
    weight = weight_of(at)
    as_heavy = [s for s in player.spots if weight_of(s.at_ticks) == weight]
    rows = [row for row in (same, in_beat, as_heavy) if row]
    late = sum(s.late_ms for s in rows[0]) / len(rows[0]) if rows else 0.0
    levels = [_level(rows, role, player) for role in ROLE_ORDER]
    way = _WAYS[0] if same else _WAYS[1] if in_beat else _WAYS[2] if as_heavy else _WAYS[3]
    return SpotFeel(name, bar_ticks, at, late, (levels[0], levels[1], levels[2])), way


def _level(rows: list[list[SpotFeel]], role: Role, player: _Source) -> float:
    """The velocity of a role, from the nearest spots where it, or another that is no ghost, is known; or 0."""
    for row in rows:
        known = [level for s in row if (level := s.level_of(role))]
        if known:
            return sum(known) / len(known)
    if role is Role.GHOST:
        return player.levels.get(role, 0.0)
    other = Role.NORMAL if role is Role.ACCENT else Role.ACCENT
    return player.levels.get(role, 0.0) or player.levels.get(other, 0.0)


def weight_of(at_ticks: int) -> int:
    """How heavy a spot of a bar is: 0 the bar line, then beats, eighths, sixteenths, thirds, and all else."""
    if not at_ticks:
        return 0
    for weight, ticks in enumerate((20160, 10080, 5040, 6720, 2520, 3360), 1):
        if at_ticks % ticks == 0:
            return weight
    return 7


def _finer(source: Feel, keys: list[tuple[str, int, int]]) -> list[str]:
    """A sentence where the part has finer notes than the player ever played."""
    if not source.spots:
        return []
    theirs = next((g for g, _ in _GRIDS if all(s.at_ticks % (80640 // g) == 0 for s in source.spots)), 64)
    ours = next((g for g, _ in _GRIDS if all(at % (80640 // g) == 0 for _, _, at in keys)), 64)
    missing = [words for g, words in _GRIDS if theirs < g <= ours]
    return [f"No {missing[-1]} in the source: those stay even."] if missing else []


def _joined(
    own: Feel,
    source: Feel,
    found: dict[tuple[str, int, int], SpotFeel],
    leans: dict[str, float],
    keys: list[tuple[str, int, int]],
    *,
    touch: float,
    time: float,
    all_voices: bool,
) -> Feel:
    """The groove's own feel and the player's, each as far as it is wanted."""
    table = {k: own.spot_table.get(k) or SpotFeel(*k) for k in keys}
    lean = {k[0]: own.lean_of(k[0]) for k in keys}
    lean |= {name: between(own.lean_of(name), ms, time) for name, ms in leans.items()}
    for key, theirs in found.items():
        mine = table[key]
        late = between(own.lean_of(key[0]) + mine.late_ms, leans[key[0]] + theirs.late_ms, time) - lean[key[0]]
        table[key] = replace(theirs, late_ms=late, levels=theirs.levels if touch else mine.levels)
    swing = swing_between(own.swing, source.swing, time)
    swings = {k[0]: own.swing_of(k[0]) for k in keys}
    for name in leans:
        after = _player(source, name)
        theirs_swing = source.swing_of(after.name if after else name)
        swings[name] = swing_between(own.swing_of(name), theirs_swing, time)
    out = replace(
        own,
        swing=swing if all_voices else own.swing,
        swings=_tidy_swings(swings, swing if all_voices else own.swing),
        lean_ms={**own.lean_ms, **lean},
        spots=tuple(table.values()) if any(s.late_ms or any(s.levels) for s in table.values()) else (),
        loose_ms=max(between(own.loose_ms, source.loose_ms, time), 0.0) if all_voices else own.loose_ms,
    )
    if time and all_voices:
        # The hits' own deviations are the old player's: they go as the new one comes.
        out = replace(
            out, wander=wander_between(own.wander, source.wander, time, touch), own_share=max(1.0 - time, 0.0)
        )
    if touch:
        levels = () if not all_voices else source.touch.levels
        out = replace(out, touch=replace(source.touch, share=touch, levels=levels))
    return out


def _tidy_swings(swings: dict[str, Swing], whole: Swing) -> dict[str, Swing]:
    return {name: s for name, s in swings.items() if s != whole}
