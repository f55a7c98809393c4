"""Lines of a text grid that say how it is played: swing, leans, looseness, and everything of a player.

swing 16 0.57                                  swing hat_closed 16 0.62
lean snare +12, hat -4                         loose 4
spot snare 3 of 4 late +5, accent 118          three quarters into a bar of four
wander exponent 1, shared 0.64                 touch second 0.9, weaker 0.95
touch snare ghost 30, accent 112               spacing flam 28, spread 3
"""

import re
from collections.abc import Callable, Iterable, Mapping
from dataclasses import fields, replace
from fractions import Fraction
from typing import Any

from ghoststep.music.errors import InputError
from ghoststep.music.feel import SWING_UNITS, Feel, Swing
from ghoststep.music.kit import GROUPS, LANE_OF_VOICE, VOICE_INDEX, voices_of
from ghoststep.music.player import Spacing, SpotFeel, Touch, Wander
from ghoststep.music.time import TICKS_PER_QUARTER
from ghoststep.music.touch import Role

_ROLES = [r.value for r in Role]
_OF_TOUCH = ("share", "second", "weaker")


def read_number(text: str, what: str) -> float:
    """A number as people write it; an InputError where it is none."""
    if not re.fullmatch(r"[+-]?\d{1,9}(\.\d{1,20})?(e[+-]?\d{1,3})?", text.strip()):
        raise InputError(f"'{text.strip()}' is not {what}: give a number.")
    return float(text)


def figure(value: float) -> str:
    """A number that reads back as itself."""
    return f"{value:g}" if float(f"{value:g}") == value else repr(value)


def pairs(rest: str, what: str, example: str = "snare +12, hat -4") -> list[tuple[str, float]]:
    """ "snare +12, hat -4": names with a figure each.

    Raises
    ------
    InputError
        Where a name has no figure.
    """
    out = []
    for part in rest.split(","):
        words = part.split()
        if len(words) != 2:
            raise InputError(f"'{part.strip()}' is no {what}: write it like '{what} {example}'.")
        out.append((words[0], read_number(words[1], f"a {what}")))
    return out


# -- reading ------------------------------------------------------------------------------------------------------


def _swing(rest: str, feel: Feel) -> Feel:
    words = rest.replace(":", " ").split()
    name = words.pop(0) if len(words) == 3 and words[0] in VOICE_INDEX else ""
    if len(words) != 2 or words[0] not in [str(u) for u in SWING_UNITS]:
        raise InputError(f"'{rest}' is no swing: write it like 'swing 16 0.57'.")
    share = read_number(words[1].rstrip("%"), "a share") / (100 if words[1].endswith("%") else 1)
    swing = Swing(int(words[0]), share)
    return replace(feel, swings={**feel.swings, name: swing}) if name else replace(feel, swing=swing)


def _lean(rest: str, feel: Feel) -> Feel:
    leans = dict(feel.lean_ms)
    # What is said of a voice stands against what is said of its group.
    for name, ms in sorted(pairs(rest, "lean"), key=lambda pair: pair[0] in LANE_OF_VOICE):
        leans.update(dict.fromkeys(voices_of(name), ms))
    return replace(feel, lean_ms=leans)


def _loose(rest: str, feel: Feel) -> Feel:
    return replace(feel, loose_ms=read_number(rest, "a looseness in ms"))


def _counted(field_name: str, what: str) -> Callable[[str, Feel], Feel]:
    def read(rest: str, feel: Feel) -> Feel:
        if not re.fullmatch(r"\d{1,10}", rest):
            raise InputError(f"'{rest}' is no {what}: give a whole number.")
        return _changed(feel, field_name, int(rest))

    return read


def _changed(feel: Feel, field_name: str, value: Any) -> Feel:
    return replace(feel, **{field_name: value})


def _balance(rest: str, feel: Feel) -> Feel:
    told = pairs(rest, "balance")
    for name, _ in told:
        if name not in GROUPS:
            raise InputError(f"'{name}' is no group of voices. The groups are: {', '.join(GROUPS)}.")
    return replace(feel, balance_db={**feel.balance_db, **dict(told)})


def _spot(rest: str, feel: Feel) -> Feel:
    found = re.fullmatch(r"(\w+) (\d{1,6}(?:/\d{1,6})?) of (\d{1,6}(?:/\d{1,6})?)(?: (.+))?", rest)
    if not found:
        raise InputError(f"'spot {rest}' says nothing: write it like 'spot snare 3 of 4 late +5, accent 118'.")
    said = dict(pairs(found[4], "spot", "snare 3 of 4 late +5, accent 118")) if found[4] else {}
    if unknown := set(said) - {"late", *_ROLES}:
        raise InputError(f"'{min(unknown)}' says nothing of a spot: late, {', '.join(_ROLES)}.")
    levels = (said.get("ghost", 0.0), said.get("normal", 0.0), said.get("accent", 0.0))
    new = SpotFeel(found[1], _ticks(found[3]), _ticks(found[2]), said.get("late", 0.0), levels)
    key = (new.voice, new.bar_ticks, new.at_ticks)
    return replace(feel, spots=tuple({**feel.spot_table, key: new}.values()))


def _ticks(text: str) -> int:
    above, _, below = text.partition("/")
    if below and not int(below):
        raise InputError(f"'{text}' is no number of quarters.")
    ticks = Fraction(int(above), int(below or 1)) * TICKS_PER_QUARTER
    if ticks.denominator != 1:
        raise InputError(f"{text} quarters lie between two ticks.")
    return int(ticks)


def _named(rest: str, what: str, value: Any, example: str) -> Any:
    """A value with some of its figures said by name."""
    known = [f.name for f in fields(value)]
    said = dict(pairs(rest, what, example))
    if unknown := set(said) - set(known):
        raise InputError(f"'{min(unknown)}' is no figure of {what}. There are: {', '.join(known)}.")
    whole = {k: int(v) if isinstance(getattr(value, k), int) else v for k, v in said.items()}
    return replace(value, **whole)


def _wander(rest: str, feel: Feel) -> Feel:
    return replace(feel, wander=_named(rest, "wander", feel.wander, "exponent 1, shared 0.64"))


def _spacing(rest: str, feel: Feel) -> Feel:
    return replace(feel, spacing=_named(rest, "spacing", feel.spacing, "flam_ms 28, spread_ms 3"))


def _touch(rest: str, feel: Feel) -> Feel:
    first, _, told = rest.partition(" ")
    touch = feel.touch
    if first in VOICE_INDEX:
        rows = {(n, r): v for n, r, v in touch.levels}
        for word, velocity in pairs(told, "touch", "snare ghost 30, accent 112"):
            if word not in _ROLES:
                raise InputError(f"'{word}' is no role. The roles are: {', '.join(_ROLES)}.")
            rows[first, Role(word)] = velocity
        return replace(feel, touch=replace(touch, levels=tuple((n, r, v) for (n, r), v in rows.items())))
    if first == "hand":
        return replace(feel, touch=replace(touch, weaker_hand=told.strip()))
    said = dict(pairs(rest, "touch", "second 0.9, weaker 0.95"))
    if unknown := set(said) - set(_OF_TOUCH):
        raise InputError(f"'{min(unknown)}' is no voice and no figure of touch: {', '.join(_OF_TOUCH)}.")
    figures = {key: said.get(key, float(getattr(touch, key))) for key in _OF_TOUCH}
    return replace(feel, touch=Touch(touch.levels, **figures, weaker_hand=touch.weaker_hand))


def _frozen(rest: str, feel: Feel) -> Feel:
    found = re.fullmatch(r"(on|off)(?: every (\d{1,3}))?", rest)
    if not found:
        raise InputError(f"'{rest}' means nothing here: write on or off, or 'on every 4'.")
    return replace(feel, frozen=found[1] == "on", another_every=int(found[2] or 0))


def _own(rest: str, feel: Feel) -> Feel:
    return replace(feel, own_share=read_number(rest, "a share of the hits' own deviations"))


def _steady(rest: str, feel: Feel) -> Feel:
    return replace(feel, steady=tuple(dict.fromkeys(part.strip() for part in rest.split(","))))


FEEL_LINES: Mapping[str, Callable[[str, Feel], Feel]] = {
    "swing": _swing, "lean": _lean, "loose": _loose, "take": _counted("take", "take"), "balance": _balance,
    "spot": _spot, "wander": _wander, "touch": _touch, "spacing": _spacing, "seed": _counted("seed", "seed"),
    "frozen": _frozen, "own": _own, "steady": _steady,
}  # fmt: skip

# -- writing ------------------------------------------------------------------------------------------------------


def feel_lines(feel: Feel) -> list[str]:
    """Lines that say all of a feel that is not as usual."""
    out = []
    if not feel.swing.straight or feel.swing.unit != 16:
        out.append(f"swing {feel.swing.unit} {figure(feel.swing.ratio)}")
    out += [f"swing {name} {s.unit} {figure(s.ratio)}" for name, s in feel.swings.items()]
    if feel.lean_ms:
        out.append("lean " + _listed((name, _signed(ms)) for name, ms in feel.lean_ms.items()))
    if feel.loose_ms:
        out.append(f"loose {figure(feel.loose_ms)}")
    if feel.take != 1:
        out.append(f"take {feel.take}")
    if feel.balance_db:
        out.append("balance " + _listed((name, _signed(db)) for name, db in feel.balance_db.items()))
    return out + _player_lines(feel)


def _player_lines(feel: Feel) -> list[str]:
    out = []
    for s in feel.spots:
        told = [("late", _signed(s.late_ms))] if s.late_ms else []
        told += [(role, figure(level)) for role, level in zip(_ROLES, s.levels, strict=True) if level]
        place = (
            f"spot {s.voice} {Fraction(s.at_ticks, TICKS_PER_QUARTER)} of {Fraction(s.bar_ticks, TICKS_PER_QUARTER)}"
        )
        out.append(f"{place} {_listed(told)}".rstrip())
    out += _figures("wander", feel.wander, Wander()) + _figures("spacing", feel.spacing, Spacing())
    levels: dict[str, list[tuple[str, str]]] = {}
    for name, role, velocity in feel.touch.levels:
        levels.setdefault(name, []).append((role.value, figure(velocity)))
    out += [f"touch {name} {_listed(told)}" for name, told in levels.items()]
    usual = Touch()
    told = [(k, figure(getattr(feel.touch, k))) for k in _OF_TOUCH if getattr(feel.touch, k) != getattr(usual, k)]
    if told:
        out.append(f"touch {_listed(told)}")
    if feel.touch.weaker_hand != usual.weaker_hand:
        out.append(f"touch hand {feel.touch.weaker_hand}")
    if feel.seed:
        out.append(f"seed {feel.seed}")
    if feel.frozen or feel.another_every:
        every = f" every {feel.another_every}" if feel.another_every else ""
        out.append(f"frozen {'on' if feel.frozen else 'off'}{every}")
    if feel.own_share != 1:
        out.append(f"own {figure(feel.own_share)}")
    if feel.steady:
        out.append(f"steady {', '.join(feel.steady)}")
    return out


def _figures(word: str, value: Any, usual: Any) -> list[str]:
    told = [(f.name, figure(getattr(value, f.name))) for f in fields(value)]
    told = [(name, text) for name, text in told if getattr(value, name) != getattr(usual, name)]
    return [f"{word} {_listed(told)}"] if told else []


def _listed(told: Iterable[tuple[str, str]]) -> str:
    return ", ".join(f"{name} {text}" for name, text in told)


def _signed(value: float) -> str:
    return f"{'+' * (value > 0)}{figure(value)}"
