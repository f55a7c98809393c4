"""A groove checked: findings in the order of the bars, sticking, names, limits and likeness in one report."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from functools import cached_property

from ghoststep.judge.alternatives import applied
from ghoststep.judge.difficulty import Difficulty, difficulty
from ghoststep.judge.finding import STYLES, Finding
from ghoststep.judge.hands import PLAIN, along, graces
from ghoststep.judge.hat_foot import foot_elsewhere
from ghoststep.judge.impossible import too_fast, too_many
from ghoststep.judge.kit_setup import STANDARD, WAYS, KitSetup
from ghoststep.judge.layers import Layer, layers
from ghoststep.judge.likeness import Likeness, likeness
from ghoststep.judge.limits import Limit, limits
from ghoststep.judge.line import names
from ghoststep.judge.mechanical import mechanical
from ghoststep.judge.names import Named
from ghoststep.judge.played import Played
from ghoststep.judge.players import PLAYERS, Player
from ghoststep.judge.remarks import remarks
from ghoststep.judge.strokes import windows
from ghoststep.judge.unclear import balance, unclear
from ghoststep.judge.unlikely import unlikely
from ghoststep.music.errors import InputError
from ghoststep.music.groove import Groove


@dataclass(frozen=True)
class Terms:
    """What a part is judged against: who plays it, how, on which kit, and what it may be (names of STYLES)."""

    player: Player = PLAYERS["working"]
    way: str = WAYS[0]
    setup: KitSetup = STANDARD
    styles: frozenset[str] = frozenset()

    def __post_init__(self) -> None:
        if self.way not in WAYS:
            raise InputError(f"'{self.way}' is no way to play. There are: {', '.join(WAYS)}.")
        for name in self.styles - STYLES.keys():
            raise InputError(f"'{name}' is no style. There are: {', '.join(STYLES)}.")

    @property
    def allowed(self) -> frozenset[str]:
        """Names of the findings that the styles take back."""
        return frozenset(name for style in self.styles for name in STYLES[style])


@dataclass(frozen=True, eq=False)
class Report:
    """findings: in the order of the bars, the worst first in each; limbs: index of a hit -> limb; limits: of every
    bar and limb. Names and likeness are worked out when they are asked for."""

    played: Played
    findings: tuple[Finding, ...]
    limits: tuple[Limit, ...]

    @property
    def limbs(self) -> Mapping[int, str]:
        return self.played.limbs

    @cached_property
    def names(self) -> list[Named]:
        return names(self.played.groove, self.limbs)

    @cached_property
    def layers(self) -> list[Layer]:
        """The same names and more by layers, with where and how often."""
        return layers(self.played.groove, self.limbs)

    @cached_property
    def remarks(self) -> list[str]:
        """What strikes one about it."""
        return [s.words for s in remarks(self.played.groove)]

    @cached_property
    def with_limbs(self) -> Groove:
        """The groove with the limbs that were worked out written into its hits."""
        return applied(self.played.groove, self.limbs)

    @cached_property
    def difficulty(self) -> Difficulty:
        return difficulty(self.played, list(self.limits))

    @cached_property
    def likeness(self) -> Likeness:
        return likeness(self.played)


def checked(groove: Groove, terms: Terms = Terms(), meant: Iterable[str] = ()) -> Report:
    """Check a groove.

    Parameters
    ----------
    meant
        Keys of findings that are meant so: they are left out.
    """
    played = played_by(groove, terms)
    rows = limits(played, terms.player, terms.setup)
    found = [
        *too_many(played, terms.setup),
        *foot_elsewhere(played),
        *too_fast(played, rows),
        *unlikely(played, terms.setup),
        *mechanical(played),
        *unclear(played),
        *balance(played),
    ]
    quiet, allowed = set(meant), terms.allowed
    kept = [f for f in found if f.name not in allowed and f.key not in quiet]
    kept.sort(key=lambda f: (f.bar, f.rank, f.tick, f.name))
    return Report(played, tuple(kept), tuple(rows))


def impossible(groove: Groove, terms: Terms) -> int:
    """How many things in a groove no drummer could play; faster than a whole check."""
    played = played_by(groove, terms)
    rows = limits(played, terms.player, terms.setup)
    found = [*too_many(played, terms.setup), *foot_elsewhere(played), *too_fast(played, rows)]
    return sum(f.kind == "impossible" and f.name not in terms.allowed for f in found)


def played_by(groove: Groove, terms: Terms) -> Played:
    """The groove with the limb of every hit: those that hits name, and the easiest around them."""
    cuts = list(windows(groove))
    limbs: dict[int, str] = {}
    for cut, found in zip(cuts, along(cuts, terms.way, terms.setup, PLAIN, keep=True), strict=True):
        limbs.update(zip(cut.indices, found.limbs, strict=True))
    return Played(groove, cuts, limbs | graces(groove, limbs))
