"""Hits and patterns as they are written: without names and without where they were heard."""

from dataclasses import replace

from ghoststep.music.pattern import Hit, Pattern


def plain(h: Hit) -> Hit:
    """The hit without its name and without where it was heard."""
    return replace(h, key=0, origin=None) if h.key or h.origin is not None else h


def without_keys(pattern: Pattern) -> Pattern:
    """The pattern with plain hits; the same one where they are so already."""
    if not any(h.key or h.origin for h in pattern.hits):
        return pattern
    return replace(pattern, hits=tuple(plain(h) for h in pattern.hits))
