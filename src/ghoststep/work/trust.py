"""Whose tempo and bars count where a file states some."""

from enum import StrEnum


class Trust(StrEnum):
    """What is believed of a MIDI file's own tempo and bars."""

    COMPARE = "compare"  # the file, where its hits keep to it
    FILE = "file"
    HITS = "hits"
