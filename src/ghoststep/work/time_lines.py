"""Time lines that a groove plays, in words."""

from ghoststep.craft.timelines import Recognised, recognised
from ghoststep.music.groove import Groove


def time_lines_of(groove: Groove) -> list[Recognised]:
    """The claves and other time lines that a groove plays: of each voice the one that fits best."""
    found: dict[str, Recognised] = {}
    for line in recognised(groove.pattern):
        found.setdefault(line.voice, line)
    return list(found.values())


def time_line_words(groove: Groove) -> str:
    """ "It plays the 3-2 son on the cross stick.", or nothing where it plays none."""
    found = [f"the {line.words}" for line in time_lines_of(groove)]
    return f"It plays {' and '.join(found)}." if found else ""
