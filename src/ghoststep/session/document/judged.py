"""What the user set for the check: who plays, how, on which kit, what the part may be, and what is meant so."""

from dataclasses import dataclass, replace

from ghoststep.judge.check import Terms
from ghoststep.judge.finding import STYLES
from ghoststep.judge.kit_setup import SETUPS, STANDARD, WAYS
from ghoststep.judge.players import PLAYERS, player
from ghoststep.music.errors import InputError


@dataclass(frozen=True)
class Judged:
    """Names of PLAYERS, WAYS, SETUPS and STYLES; meant: keys of findings that stay quiet.

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

    def __post_init__(self) -> None:
        player(self.player)
        for value, known, what in ((self.way, WAYS, "way to play"), (self.setup, SETUPS, "set-up of the kit")):
            if value not in known:
                raise InputError(f"'{value}' is no {what}. There are: {', '.join(known)}.")
        for name in self.styles:
            if name not in STYLES:
                raise InputError(f"'{name}' is no style. There are: {', '.join(STYLES)}.")

    @property
    def terms(self) -> Terms:
        return Terms(PLAYERS[self.player], self.way, SETUPS[self.setup], frozenset(self.styles))

    def with_style(self, name: str, on: bool) -> "Judged":
        """The same with a style on or off."""
        rest = tuple(s for s in self.styles if s != name)
        return replace(self, styles=(*rest, name) if on else rest)

    def with_meant(self, key: str, on: bool) -> "Judged":
        """The same with a finding quiet or heard."""
        rest = tuple(k for k in self.meant if k != key)
        return replace(self, meant=(*rest, key) if on else rest)
