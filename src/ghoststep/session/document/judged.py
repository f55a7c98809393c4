"""What the user set for the check: who plays, how, on which kit, what the part may be, and what is meant so."""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import TYPE_CHECKING

from ghoststep.judge.finding import STYLES
from ghoststep.judge.kit_setup import SETUPS, STANDARD, WAYS, KitSetup, with_pedals
from ghoststep.judge.players import PLAYERS, player
from ghoststep.music.errors import InputError

if TYPE_CHECKING:
    from ghoststep.judge.check import Terms


@dataclass(frozen=True)
class Judged:
    """Names of PLAYERS, WAYS, SETUPS and STYLES; meant: keys of findings that stay quiet; stands: (voice, to the right
    of the player, away) of what stands elsewhere than usual, in arm's lengths.

    Raises
    ------
    InputError
        Naming what there is.
    """

    player: str = "working"
    way: str = WAYS[0]
    setup: str = STANDARD.name
    styles: tuple[str, ...] = ()
    meant: tuple[str, ...] = ()
    stands: tuple[tuple[str, float, float], ...] = ()

    def __post_init__(self) -> None:
        player(self.player)
        for value, known, what in ((self.way, WAYS, "way to play"), (self.setup, SETUPS, "set-up of the kit")):
            if value not in known:
                raise InputError(f"'{value}' is no {what}. There are: {', '.join(known)}.")
        for name in self.styles:
            if name not in STYLES:
                raise InputError(f"'{name}' is no style. There are: {', '.join(STYLES)}.")
        _ = self.kit  # refuses what no arm reaches

    @property
    def kit(self) -> KitSetup:
        """The set-up with what stands elsewhere."""
        named = SETUPS[self.setup]
        if not self.stands:
            return named
        own = {name: (right, away) for name, right, away in self.stands}
        return KitSetup(f"{named.name}, own", {**named.stands, **own}, named.kick_pedals)

    @property
    def terms(self) -> "Terms":
        """What the check goes by."""
        from ghoststep.judge.check import Terms  # the whole check comes with it, and most documents never ask

        return Terms(PLAYERS[self.player], self.way, self.kit, frozenset(self.styles))

    def with_style(self, name: str, on: bool) -> "Judged":
        """The same with a style on or off."""
        rest = tuple(s for s in self.styles if s != name)
        return replace(self, styles=(*rest, name) if on else rest)

    def with_meant(self, key: str, on: bool) -> "Judged":
        """The same with a finding quiet or heard."""
        rest = tuple(k for k in self.meant if k != key)
        return replace(self, meant=(*rest, key) if on else rest)

    def with_stands(self, moved: Mapping[str, tuple[float, float]]) -> "Judged":
        """The same with voices standing elsewhere; those that stand where they usually do are not kept."""
        all_moved = {name: (right, away) for name, right, away in self.stands} | dict(moved)
        kept = {name: at for name, at in all_moved.items() if at != STANDARD.stand_of(name)}
        return replace(self, stands=tuple((name, *at) for name, at in sorted(kept.items())))

    def with_kit(self, kit: KitSetup) -> "Judged":
        """The same with a kit as a file sets it up."""
        return replace(self, setup=with_pedals(kit.kick_pedals).name, stands=()).with_stands(kit.stands)
