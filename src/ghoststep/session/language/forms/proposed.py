"""A found form as parts with changes in words, and sections with what single bars have for themselves.

Steps: (1) sets of alike bars become parts and variations; (2) what else is struck in a bar than its part says becomes
an exception of its section, in words, where every playing of the section has it; (3) whatever is still different (how
hard and how early single strokes are, a stroke of one playing) is kept as singles. The form unrolled is the groove.
"""

from collections.abc import Sequence
from dataclasses import replace

from ghoststep.judge.form_found import FoundForm
from ghoststep.music.form import Form, Part, Pass, Play, Section
from ghoststep.music.groove import Groove
from ghoststep.music.pattern import Hit, Pattern
from ghoststep.music.unrolled import bars_of
from ghoststep.session.form.exact import exact
from ghoststep.session.form.plain import without_keys
from ghoststep.session.language.forms.variation import changes_between
from ghoststep.session.language.forms.words import changed_by, song


def form_of(found: FoundForm, groove: Groove, *, bare: bool = False) -> Form:
    """Parts with their changes, sections with exceptions, singles; a variation that words cannot say is free.

    bare: without exceptions and singles, for a form that is not finished yet.
    """
    parts: list[Part] = []
    known = {p.name: p for p in found.parts}
    for p in found.parts:
        changes = changes_between(known[p.base].pattern, p.pattern) if p.base else None
        if changes is not None and changes.exact:
            parts.append(Part(p.name, p.pattern, p.base, changes.phrases))
        else:
            parts.append(Part(p.name, p.pattern))
    sections = {s.name: Section(s.name, plays_in_a_row(s.letters)) for s in found.sections}
    form = Form(tuple(parts), tuple(sections.values()), tuple(s.name for s in found.sections))
    if bare:
        return form
    form = _with_exceptions(form, groove.pattern)
    return exact(form, song(form, groove), groove)


def _with_exceptions(form: Form, pattern: Pattern) -> Form:
    """The form with what else single bars strike than their parts, as exceptions of the sections."""
    passes: dict[str, list[Pass]] = {}
    for played in form.passes:
        passes.setdefault(played.section.name, []).append(played)
    for playings in passes.values():
        section = playings[0].section
        own = [form.part(part).pattern for part in section.row]  # of one bar each, as they were found
        exceptions = []
        for k, part in enumerate(own):
            told = [_phrases(part, bars_of(pattern, p.body_bar + k, p.body_bar + k)) for p in playings]
            if told[0] and all(t == told[0] for t in told):
                exceptions += [(k + 1, phrase) for phrase in told[0]]
        if exceptions:
            form = form.with_section(replace(section, exceptions=tuple(exceptions)))
    return form


def _phrases(part: Pattern, bar: Pattern) -> tuple[str, ...]:
    """What leads from a part to what is struck in a bar, however hard and early; () where words cannot say it."""
    bar = without_keys(bar)
    struck = {(h.position_ticks, h.voice, h.grace): h for h in part.hits}
    if len(struck) < len(part.hits) or len({(h.position_ticks, h.voice, h.grace) for h in bar.hits}) < len(bar.hits):
        return ()
    wanted = replace(
        part, hits=tuple(_as_usual(h, struck.get((h.position_ticks, h.voice, h.grace)), bar) for h in bar.hits)
    )
    if wanted == part:
        return ()
    changes = changes_between(part, wanted)
    return changes.phrases if changes.exact and changed_by(part, changes.phrases).hits == wanted.hits else ()


def _as_usual(h: Hit, own: Hit | None, bar: Pattern) -> Hit:
    """A stroke as hard, as late and as long as the part's own, or as a new one is."""
    if own is None:
        return h if h.grace else replace(h, velocity=bar.rules.level_of(h.voice, h.role), offset_ms=0.0)
    velocity = own.velocity if own.role is h.role else bar.rules.level_of(h.voice, h.role)
    return replace(h, velocity=velocity, offset_ms=own.offset_ms, length_ticks=own.length_ticks)


def plays_in_a_row(letters: Sequence[str]) -> tuple[Play, ...]:
    """Letters in order, those in a row told with how often."""
    out: list[Play] = []
    for name in letters:
        if out and out[-1].part == name:
            out[-1] = replace(out[-1], times=out[-1].times + 1)
        else:
            out.append(Play(name))
    return tuple(out)
