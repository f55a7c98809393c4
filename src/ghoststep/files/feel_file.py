"""Feels as files (`.feel.json`): a player's time and touch, documented in docs/feel-format.md, units in the names.

The same rows keep what a feel holds beside swing, lean and looseness in a project.
"""

from fractions import Fraction
from pathlib import Path

import msgspec

from ghoststep.files.safe import read_bytes, shown, write_text
from ghoststep.music.errors import InputError
from ghoststep.music.feel import Feel, Swing
from ghoststep.music.player import Spacing, SpotFeel, Touch, Wander
from ghoststep.music.time import TICKS_PER_QUARTER
from ghoststep.music.touch import Role

FORMAT, VERSION = "ghost-step feel", 1
_MAX_BYTES = 10_000_000
_LONGEST_QUARTERS = 4096


class SwingRow(msgspec.Struct, forbid_unknown_fields=True):
    unit: int
    ratio: float


class LevelsRow(msgspec.Struct, forbid_unknown_fields=True, omit_defaults=True):
    """Velocities of the roles; what is missing is never played there."""

    ghost: float = 0.0
    normal: float = 0.0
    accent: float = 0.0


class SpotRow(msgspec.Struct, forbid_unknown_fields=True, omit_defaults=True):
    """A voice on a spot: in a bar of so many quarters, so many quarters from its line ("7/2", "3/4")."""

    voice: str
    bar_quarters: str
    at_quarters: str
    late_ms: float = 0.0
    velocity: LevelsRow = msgspec.field(default_factory=LevelsRow)


class WanderRow(msgspec.Struct, forbid_unknown_fields=True):
    exponent: float
    shared: float
    together: float
    softer: float
    velocity: float
    tempo_percent: float
    push_percent: float
    phrase_bars: int


class TouchRow(msgspec.Struct, forbid_unknown_fields=True, omit_defaults=True):
    velocity: dict[str, LevelsRow] = {}
    share: float = 1.0
    second: float = 1.0
    weaker: float = 1.0
    weaker_hand: str = "L"


class SpacingRow(msgspec.Struct, forbid_unknown_fields=True):
    flam_ms: float
    drag_ms: float
    spread_ms: float


class PlayerRow(msgspec.Struct, forbid_unknown_fields=True, omit_defaults=True):
    """What a feel holds beside swing, lean, looseness, take and balance."""

    swing_of: dict[str, SwingRow] = {}
    spots: list[SpotRow] = []
    wander: WanderRow | None = None
    touch: TouchRow = msgspec.field(default_factory=TouchRow)
    spacing: SpacingRow | None = None
    seed: int = 0
    frozen: bool = False
    own_share: float = 1.0
    steady: list[str] = []
    another_every: int = 0


class FeelRow(msgspec.Struct, forbid_unknown_fields=True):
    format: str
    version: int
    name: str
    about: str
    swing: SwingRow
    lean_ms: dict[str, float]
    loose_ms: float
    player: PlayerRow


def player_row(feel: Feel) -> PlayerRow:
    """The rows of a feel that a project keeps beside the plain ones."""
    levels: dict[str, LevelsRow] = {}
    for name, role, velocity in feel.touch.levels:
        setattr(levels.setdefault(name, LevelsRow()), role.value, velocity)
    t, s = feel.touch, feel.spacing
    return PlayerRow(
        {name: SwingRow(w.unit, w.ratio) for name, w in feel.swings.items()},
        [
            SpotRow(p.voice, _quarters(p.bar_ticks), _quarters(p.at_ticks), p.late_ms, LevelsRow(*p.levels))
            for p in feel.spots
        ],
        None if feel.wander == Wander() else WanderRow(**msgspec.structs.asdict(_wander_row(feel.wander))),
        TouchRow(levels, t.share, t.second, t.weaker, t.weaker_hand),
        None if s == Spacing() else SpacingRow(s.flam_ms, s.drag_ms, s.spread_ms),
        feel.seed,
        feel.frozen,
        feel.own_share,
        list(feel.steady),
        feel.another_every,
    )


def _wander_row(w: Wander) -> WanderRow:
    return WanderRow(
        w.exponent, w.shared, w.together, w.softer, w.velocity, w.tempo_percent, w.push_percent, w.phrase_bars
    )


def with_player(feel: Feel, row: PlayerRow) -> Feel:
    """A feel with what the rows of a player say.

    Raises
    ------
    InputError
        Where a figure is out of its range.
    """
    levels = [
        (name, role, velocity)
        for name, told in row.touch.velocity.items()
        for role in Role
        if (velocity := float(getattr(told, role.value)))
    ]
    t = row.touch
    return Feel(
        feel.swing,
        feel.lean_ms,
        feel.loose_ms,
        feel.take,
        feel.balance_db,
        {name: Swing(s.unit, s.ratio) for name, s in row.swing_of.items()},
        tuple(_spot(s) for s in row.spots),
        Wander(**msgspec.structs.asdict(row.wander)) if row.wander else Wander(),
        Touch(tuple(levels), t.share, t.second, t.weaker, t.weaker_hand),
        Spacing(**msgspec.structs.asdict(row.spacing)) if row.spacing else Spacing(),
        row.seed,
        row.frozen,
        row.own_share,
        tuple(row.steady),
        row.another_every,
    )


def _spot(row: SpotRow) -> SpotFeel:
    v = row.velocity
    bar, at = _ticks(row.bar_quarters), _ticks(row.at_quarters)
    return SpotFeel(row.voice, bar, at, row.late_ms, (v.ghost, v.normal, v.accent))


def _quarters(ticks: int) -> str:
    return str(Fraction(ticks, TICKS_PER_QUARTER))


def _ticks(text: str) -> int:
    try:
        ticks = Fraction(text) * TICKS_PER_QUARTER
    except (ValueError, ZeroDivisionError) as error:
        raise InputError(f"'{text}' is no number of quarters: write it like 4 or 7/2.") from error
    if not 0 <= ticks <= _LONGEST_QUARTERS * TICKS_PER_QUARTER or ticks.denominator != 1:
        raise InputError(f"{text} quarters do not fit: a spot lies on a whole tick of a bar.")
    return int(ticks)


def feel_bytes(feel: Feel, name: str, about: str = "") -> bytes:
    """A feel as the text of a file."""
    swing = SwingRow(feel.swing.unit, feel.swing.ratio)
    row = FeelRow(FORMAT, VERSION, name, about, swing, dict(feel.lean_ms), feel.loose_ms, player_row(feel))
    return msgspec.json.format(msgspec.json.encode(row), indent=1) + b"\n"


def write_feel(path: Path, feel: Feel, name: str, about: str = "") -> None:
    """Write a feel; an InputError where it cannot be written."""
    write_text(path, feel_bytes(feel, name, about).decode())


def read_feel(path: Path) -> tuple[Feel, str, str]:
    """A feel, its name and what it is, from a file.

    Raises
    ------
    InputError
        Where it cannot be read, is no feel, or was saved by a newer version of the program.
    """
    return parse_feel(read_bytes(path, limit_bytes=_MAX_BYTES), shown(path))


def parse_feel(data: bytes, source: str) -> tuple[Feel, str, str]:
    """A feel, its name and what it is, from the bytes of a file; errors name the source.

    Raises
    ------
    InputError
        Where they are no feel.
    """

    class Head(msgspec.Struct):
        format: str = ""
        version: int = 0

    try:
        head = msgspec.json.decode(data, type=Head)
        if head.format != FORMAT:
            raise InputError(f"{source} is no feel: it does not say that it is a {FORMAT}.")
        if head.version > VERSION:
            raise InputError(
                f"{source} was saved by a newer version of Ghost Step (feel {head.version}; this one reads up to"
                f" {VERSION}). Please update the program to read it."
            )
        row = msgspec.json.decode(data, type=FeelRow)
    except (msgspec.DecodeError, UnicodeDecodeError) as error:
        why = str(error).replace("`", "'")  # signs of code as quotation marks
        raise InputError(f"{source} is no feel that can be read: {why}.") from error
    try:
        plain = Feel(Swing(row.swing.unit, row.swing.ratio), row.lean_ms, row.loose_ms)
        return with_player(plain, row.player), row.name, row.about
    except InputError as error:
        raise InputError(f"{source}: {error}") from error
