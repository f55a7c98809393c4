"""Kits by their names: who can look for them says so here, since the session itself reads no files."""

from collections.abc import Callable

from ghoststep.music.errors import InputError

Lookup = Callable[[str], str]


def _none_here(name: str) -> str:
    raise InputError(f"There is nowhere here to look for a kit '{name}'.")


_lookup: list[Lookup] = [_none_here]


def kits_looked_up_by(lookup: Lookup) -> None:
    """From now on kits are found by this: it gives the name by which a kit is kept, or raises an InputError."""
    _lookup[:] = [lookup]


def kit_known(name: str) -> str:
    """The name by which a kit is kept; an InputError where there is no such kit."""
    return _lookup[0](name)
