"""A found form as parts with changes in words."""

from dataclasses import replace

from ghoststep.judge.form_found import FoundForm
from ghoststep.music.form import Form, Part, Play, Section
from ghoststep.session.language.variation import changes_between


def form_of(found: FoundForm) -> Form:
    """Parts with their changes; a variation whose changes the language cannot say is a part of its own."""
    parts: list[Part] = []
    known = {p.name: p for p in found.parts}
    for p in found.parts:
        changes = changes_between(known[p.base].pattern, p.pattern) if p.base else None
        if changes is not None and changes.exact:
            parts.append(Part(p.name, p.pattern, p.base, changes.phrases))
        else:
            parts.append(Part(p.name, p.pattern))
    sections = {s.name: Section(s.name, _plays(s.letters)) for s in found.sections}
    return Form(tuple(parts), tuple(sections.values()), tuple(s.name for s in found.sections))


def _plays(letters: tuple[str, ...]) -> tuple[Play, ...]:
    """Letters in order, those in a row told with how often."""
    out: list[Play] = []
    for name in letters:
        if out and out[-1].part == name:
            out[-1] = replace(out[-1], times=out[-1].times + 1)
        else:
            out.append(Play(name))
    return tuple(out)
