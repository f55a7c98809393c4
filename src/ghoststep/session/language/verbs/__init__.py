"""Every verb of the language, by what it is about. Loading them fills the table in `session.language.verb`."""

from ghoststep.session.edits.commit import followed_by
from ghoststep.session.language.form_follow import kept_in_form
from ghoststep.session.language.verbs import (
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
    sections,
    time,
    touching,
    versions,
)

followed_by(kept_in_form)
__all__ = [
    "choosing", "feel", "form_correcting", "forming", "hands", "hits", "judging", "making", "phrasing", "playing",
    "sections", "time", "touching", "versions",
]  # fmt: skip
