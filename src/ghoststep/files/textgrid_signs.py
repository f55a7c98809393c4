"""What reading and writing a text grid share: the letters of roles, and the grid that holds in a bar."""

from ghoststep.music.touch import ROLES

LETTER_OF_ROLE = {spec.role: spec.grid_letter for spec in ROLES}


def grid_of_bar(grids: dict[int, int], usual: int, bar: int) -> int:
    """The grid that lanes without one of their own have in a bar."""
    before = [b for b in grids if b <= bar]
    return grids[max(before)] if before else usual
