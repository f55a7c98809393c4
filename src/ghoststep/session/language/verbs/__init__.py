"""Every verb of the language, by what it is about. Loading them fills the table in `session.language.verb`."""

from ghoststep.session.language.verbs import (
    asking,
    bars,
    choosing,
    feel,
    form_correcting,
    forming,
    hands,
    hits,
    judging,
    making,
    phrasing,
    playing,
    rhythm,
    sections,
    sounding,
    time,
    touching,
    versions,
)

__all__ = [
    "asking", "bars", "choosing", "feel", "form_correcting", "forming", "hands", "hits", "judging", "making",
    "phrasing", "playing", "rhythm", "sections", "sounding", "time", "touching", "versions",
]  # fmt: skip
