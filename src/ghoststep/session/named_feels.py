"""Feels by the names of their players: who has a shelf says so here, since the session itself reads no files."""

from collections.abc import Callable

from ghoststep.music.errors import InputError
from ghoststep.music.feel import Feel

Lookup = Callable[[str], tuple[Feel, str]]


def _no_shelf(name: str) -> tuple[Feel, str]:
    raise InputError(f"There is no shelf here on which a feel '{name}' could be.")


_lookup: list[Lookup] = [_no_shelf]


def looked_up_by(lookup: Lookup) -> None:
    """From now on players are found by this."""
    _lookup[:] = [lookup]


def player_named(name: str) -> tuple[Feel, str]:
    """A player's feel and full name; an InputError that names those there are where there is none."""
    return _lookup[0](name)
