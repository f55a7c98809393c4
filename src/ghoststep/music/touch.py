"""Velocity, role and level."""

from dataclasses import dataclass
from enum import StrEnum

import numpy as np
from numpy.typing import ArrayLike, NDArray


class Role(StrEnum):
    GHOST = "ghost"
    NORMAL = "normal"
    ACCENT = "accent"


@dataclass(frozen=True)
class RoleSpec:
    """A role with the velocity it is set to and the range it is read from (working assumptions)."""

    role: Role
    grid_letter: str
    velocity: int
    lowest: int


# The defaults of the text grid are 32, 72 and 108; softer than 46 reads as a ghost, harder than 95 as an accent.
ROLES: tuple[RoleSpec, ...] = (
    RoleSpec(Role.GHOST, "o", 32, 1),
    RoleSpec(Role.NORMAL, "x", 72, 46),
    RoleSpec(Role.ACCENT, "X", 108, 96),
)
ROLE_VELOCITY = {spec.role: spec.velocity for spec in ROLES}


def role_of(velocity: int) -> Role:
    """The role a velocity is read as where nothing else is known."""
    return next(spec.role for spec in reversed(ROLES) if velocity >= spec.lowest)


def level_db(velocity: ArrayLike) -> NDArray[np.float64]:
    """Level against velocity 127: 40 log10(v / 127) dB, the usual curve of MIDI instruments."""
    return 40 * np.log10(np.maximum(np.asarray(velocity, float), 1e-3) / 127)


def velocity_of_level(db: ArrayLike) -> NDArray[np.float64]:
    """The inverse of `level_db`, not rounded."""
    out: NDArray[np.float64] = 127 * 10 ** (np.asarray(db, float) / 40)
    return out
