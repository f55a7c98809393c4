"""`hit` lines of a text grid: everything about one hit that a letter cannot say.

    hit kick bar 3 step 11 velocity 90 stroke plain late 4
    hit kick bar 1 3.875 velocity 40

    played snare bar 2: 2 92 +3.2, 2.75 31, 4 88 -1      (velocity, and how late in ms with its sign)

A line for a spot on which the lane has a letter is about that hit; else it is a hit of its own. `also` makes a second
one of a voice on one spot, `grace` a grace note.
"""

import re
from collections.abc import Sequence
from dataclasses import dataclass, replace
from fractions import Fraction
from typing import Any

from ghoststep.music.errors import InputError
from ghoststep.music.frame import Bars, Spot
from ghoststep.music.kit import LIMB_LETTERS, voice
from ghoststep.music.pattern import Hit
from ghoststep.music.rules import Rules
from ghoststep.music.spots import exact_name, parse_spot
from ghoststep.music.time import TICKS_PER_WHOLE
from ghoststep.music.touch import Role

_VALUES = ("velocity", "role", "stroke", "limb", "late", "early", "ornament", "lasts", "length")
_FLAGS = ("also", "grace", "fixed")


@dataclass(frozen=True)
class HitLine:
    """A line as it was read: where, and what it says of the hit there."""

    voice: str
    spot: Spot
    said: dict[str, Any]
    also: bool

    def lay_on(self, hits: list[Hit], frame: Bars, rules: Rules) -> None:
        """Change the hit that a letter put on the spot, or add one."""
        at = frame.ticks_of(self.spot)
        same = [i for i, h in enumerate(hits) if (h.position_ticks, h.voice) == (at, self.voice) and not h.grace]
        if same and not self.also and not self.said.get("grace"):
            hits[same[0]] = replace(hits[same[0]], **self.said)
            return
        velocity = self.said.get("velocity")
        role = self.said.get("role")
        if role is None:
            role = Role.NORMAL if velocity is None else rules.role_of(self.voice, velocity)
        if velocity is None:
            velocity = rules.level_of(self.voice, role)
        hits.append(Hit(at, self.voice, **{**self.said, "velocity": velocity, "role": role}))


def read_hit_line(text: str, frame: Bars, grid: int) -> HitLine:
    """Read what stands behind `hit`.

    Raises
    ------
    InputError
        Naming what means nothing.
    """
    words = text.split()
    if len(words) < 4 or words[1] != "bar":
        raise InputError(f"'hit {text}' says nothing: write it like 'hit kick bar 3 step 11 velocity 90 late 4'.")
    name = voice(words[0]).name
    end = next((i for i, w in enumerate(words) if w in (*_VALUES, *_FLAGS)), len(words))
    spot = parse_spot(" ".join(words[1:end]), frame, grid)
    said: dict[str, Any] = {}
    also, rest = False, words[end:]
    while rest:
        word = rest.pop(0)
        if word in _FLAGS:
            also |= word == "also"
            said |= {word: True} if word in ("grace", "fixed") else {}
            continue
        if word not in _VALUES or not rest:
            raise InputError(f"'{word}' says nothing about a hit. There are: {', '.join((*_VALUES, *_FLAGS))}.")
        said |= _value(word, rest.pop(0))
    if said.get("grace"):
        said.setdefault("role", Role.GHOST)
    return HitLine(name, spot, said, also)


Singles = dict[tuple[int, int, str], list[Hit]]


def read_single(text: str, frame: Bars, bars: int, rules: Rules, grid: int, known: Singles) -> None:
    """A line of a song's single spot, `hit kick bar 3 2& velocity 40` or `hit kick bar 3 2& none`, put among those
    that are known: (bar, tick, voice) to hits, counted from the first bar line.

    Raises
    ------
    InputError
        Where the song has no such bar, or the line says no hit.
    """
    silent = text.split()[-1:] == ["none"]
    line = read_hit_line(text.removesuffix("none").rstrip() + (" velocity 1" if silent else ""), frame, grid)
    if line.spot.bar > bars:
        raise InputError(f"The form has {bars} bars, and no bar {line.spot.bar} for a hit of its own.")
    hits = known.setdefault((line.spot.bar, line.spot.tick, line.voice), [])
    if not silent:
        line.lay_on(hits, frame, rules)


def single_lines(hits: Sequence[Hit], name: str, at: int, frame: Bars, rules: Rules) -> list[str]:
    """What `read_single` reads: the hits, counted from the first bar line, of a voice at a position."""
    if not hits:
        return [f"hit {name} bar {frame.spot_at(at).bar} {exact_name(frame.spot_at(at).tick, frame.meter_at(at))} none"]
    out, taken = [], False
    for h in hits:
        out.append(hit_line(h, frame, rules, letter=None, also=taken and not h.grace))
        taken = taken or not h.grace
    return out


def _value(word: str, text: str) -> dict[str, Any]:
    if word in ("lasts", "length"):
        return {"length_ticks": _length(text)}
    if word == "velocity":
        if not re.fullmatch(r"\d{1,9}", text):
            raise InputError(f"'{text}' is no whole number ({word}).")
        return {"velocity": int(text)}
    if word in ("late", "early"):
        if not re.fullmatch(r"[+-]?\d{1,6}(\.\d{1,20})?(e-?\d{1,3})?", text):
            raise InputError(f"'{text}' is no time in ms ({word}).")
        return {"offset_ms": float(text) if word == "late" else -float(text)}
    if word == "role":
        if text not in [r.value for r in Role]:
            raise InputError(f"'{text}' is no role: use ghost, normal or accent.")
        return {"role": Role(text)}
    if word == "limb":
        if text not in LIMB_LETTERS:
            raise InputError(f"'{text}' is no limb: use R, L, K or H.")
        return {"limb": text}
    return {word: text}


def _length(text: str) -> int:
    """A note length such as 1/4 or 3/8, or ticks (20160 to the quarter), in ticks."""
    found = re.fullmatch(r"(\d{1,9})(?:/(\d{1,9}))?", text)
    if not found or (found[2] and not int(found[2])):
        raise InputError(f"'{text}' is no length: write it like 1/4 or 3/8.")
    if not found[2]:
        return int(found[1])
    ticks = Fraction(int(found[1]), int(found[2])) * TICKS_PER_WHOLE
    if ticks.denominator != 1:
        raise InputError(f"'{text}' does not fit into whole ticks: use lengths such as 1/16, 1/24 or 1/20.")
    return int(ticks)


_SHORTEST = 4096  # parts of a whole note that say more than ticks do


def _length_text(ticks: int) -> str:
    share = Fraction(ticks, TICKS_PER_WHOLE)
    return f"{share.numerator}/{share.denominator}" if share.denominator <= _SHORTEST else str(ticks)


@dataclass(frozen=True)
class PlayedLine:
    """Strokes of a lane in one bar with how hard and how late each is: (spot, velocity or None, ms or None)."""

    voice: str
    bar: int
    strokes: tuple[tuple[Spot, int | None, float | None], ...]

    def lay_on(self, hits: list[Hit], frame: Bars) -> None:
        """Change the hits that letters put on the spots.

        Raises
        ------
        InputError
            Where its lane has no letter on the spot.
        """
        index = {(h.position_ticks, h.voice): i for i, h in reversed(list(enumerate(hits))) if not h.grace}
        for spot, velocity, ms in self.strokes:
            at = index.get((frame.ticks_of(spot), self.voice))
            if at is None:
                where = exact_name(spot.tick, frame.meter_of(spot.bar))
                raise InputError(f"the lane {self.voice} has no letter on {where} of bar {spot.bar}.")
            said = ({} if velocity is None else {"velocity": velocity}) | ({} if ms is None else {"offset_ms": ms})
            hits[at] = replace(hits[at], **said)  # type: ignore[arg-type]


def read_played_line(text: str, frame: Bars, grid: int) -> PlayedLine:
    """Read what stands behind `played`: "snare bar 2: 2 92 +3.2, 2.75 31, 4 -1.5" (velocity, ms with its sign).

    Raises
    ------
    InputError
        Naming what means nothing.
    """
    found = re.fullmatch(r"(\S+)\s+bar\s+(\d{1,7})\s*:\s*(.+)", text)
    if not found:
        raise InputError(f"'played {text}' says nothing: write it like 'played snare bar 2: 2 92 +3.2, 4 88 -1'.")
    name, bar = voice(found[1]).name, int(found[2])
    strokes = []
    for part in found[3].split(","):
        words = part.split()
        ms = float(words.pop()) if words and _SIGNED.fullmatch(words[-1]) else None
        own = 2 if words[:1] == ["step"] else 1
        velocity = int(words.pop()) if len(words) > own and re.fullmatch(r"\d{1,3}", words[-1]) else None
        if len(words) != own or (velocity is None and ms is None):
            raise InputError(f"'{part.strip()}' says nothing of a stroke: write it like '2.75 92 +3.2'.")
        strokes.append((parse_spot(" ".join(words), frame, grid, bar=bar), velocity, ms))
    return PlayedLine(name, bar, tuple(strokes))


_SIGNED = re.compile(r"[+-]\d{1,6}(\.\d{1,20})?(e-?\d{1,3})?")


def played_lines(strokes: Sequence[tuple[Hit, int | None]], frame: Bars) -> list[str]:
    """What `read_played_line` reads: hits of letters, each with its velocity where the letter says another one."""
    rows: dict[tuple[str, int], list[str]] = {}
    for h, velocity in strokes:
        spot = frame.spot_at(h.position_ticks)
        told = [exact_name(spot.tick, frame.meter_of(spot.bar))]
        told += [] if velocity is None else [str(velocity)]
        told += [f"{h.offset_ms:+}"] if h.offset_ms else []
        rows.setdefault((h.voice, spot.bar), []).append(" ".join(told))
    return [f"played {name} bar {bar}: {', '.join(told)}" for (name, bar), told in rows.items()]


def hit_line(h: Hit, frame: Bars, rules: Rules, *, letter: Role | None, also: bool) -> str:
    """The line that says what a letter (its role, None where there is none) does not; "" where nothing is left."""
    spot, meter = frame.spot_at(h.position_ticks), frame.meter_at(h.position_ticks)
    said: list[str] = []
    if letter is None:
        said.append(f"velocity {h.velocity}")
        if h.role is not (Role.GHOST if h.grace else rules.role_of(h.voice, h.velocity)):
            said.append(f"role {h.role.value}")
    elif h.velocity != rules.level_of(h.voice, letter):
        said.append(f"velocity {h.velocity}")
    if h.stroke != "plain":
        said.append(f"stroke {h.stroke}")
    if h.limb:
        said.append(f"limb {h.limb}")
    if h.offset_ms:
        said.append(f"late {h.offset_ms!r}")
    if h.ornament:
        said.append(f"ornament {h.ornament}")
    if h.length_ticks:
        said.append(f"lasts {_length_text(h.length_ticks)}")
    said += ["fixed"] if h.fixed else []
    said += ["grace"] if h.grace else ["also"] if also else []
    if letter is not None and not said:
        return ""
    return " ".join([f"hit {h.voice} bar {spot.bar} {exact_name(spot.tick, meter)}", *said])
