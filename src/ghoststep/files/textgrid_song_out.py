"""Songs out: parts as text grids, variations as changes, sections and the form."""

from dataclasses import replace

from ghoststep.files.textgrid_feel import feel_lines, figure
from ghoststep.files.textgrid_out import grid_text, head_lines
from ghoststep.music.form import Form, Part, Play, Section
from ghoststep.music.groove import Groove
from ghoststep.music.time import TempoMap


def song_text(form: Form, groove: Groove) -> str:
    """The text grid of a form; the groove gives name, tempo, meter, grid, feel and rules.

    Reading it gives the same form, and unrolled the same groove.
    """
    lines = head_lines(_header(form, groove))
    known = set(lines)
    if any(s.meter for s in form.sections):  # a part that says none would take the section's
        known = {line for line in lines if not line.startswith("meter ")}
    for part in form.parts:
        lines += ["", *_part(form, part, groove, known)]
    if form.sections:
        lines.append("")
    for section in form.sections:
        lines += _section(section)
    if form.order:
        lines.append(f"form = {_order(form.order)}")
    return "\n".join(lines) + "\n"


def _header(form: Form, groove: Groove) -> Groove:
    """The groove without its bars: what all parts share."""
    first = form.parts[0].pattern.meter if form.parts else groove.pattern.meter
    pattern = replace(groove.pattern, hits=(), bars=1, meter=first, meter_changes=(), passages=())
    tempo = groove.tempo
    if any(s.tempo_bpm for s in form.sections):  # the sections say it
        tempo = TempoMap.constant(form_bpm(form, groove))
    return replace(groove, pattern=pattern, tempo=tempo)


def form_bpm(form: Form, groove: Groove) -> float:
    """The tempo of sections without one of their own."""
    at = 0
    for stretch in form.stretches():
        if form.section(stretch.section).tempo_bpm is None if form.sections else True:
            return groove.tempo.bpm_at(at)
        at += form.part(stretch.part).pattern.length_ticks
    return groove.tempo.main_bpm


def _part(form: Form, part: Part, groove: Groove, known: set[str]) -> list[str]:
    if part.base:
        return [
            f"part {part.name} = {part.base}",
            *(f"  {p}" for p in part.changes),
            *(f"  aside {p}" for p in part.aside),
        ]
    own = replace(groove, pattern=replace(part.pattern, rules=groove.pattern.rules), tempo=_header(form, groove).tempo)
    text = grid_text(own)
    return [f"part {part.name}", *(line for line in text.splitlines() if line not in known)]


def _section(section: Section) -> list[str]:
    told = _plays(section.plays) + "".join(f" | ending {_plays(ending)}" for ending in section.endings)
    out = [f"section {section.name} = {told}"]
    if section.tempo_bpm is not None:
        out.append(f"  tempo {figure(section.tempo_bpm)}")
    if section.meter is not None:
        out.append(f"  meter {section.meter.full_name}")
    if section.before:
        out.append(f"  before {_plays(section.before)}")
    out += [f"  cue {f'to {to} ' if to else ''}{phrase}" for to, phrase in section.cues]
    if section.feel is not None:
        out += [f"  {line}" for line in feel_lines(section.feel)]
    return [*out, *(f"  bar {bar} {phrase}" for bar, phrase in section.exceptions)]


def _plays(plays: tuple[Play, ...]) -> str:
    return " ".join(p.part if p.times == 1 else f"{p.part} x{p.times}" for p in plays)


def _order(names: tuple[str, ...]) -> str:
    return " ".join(names)
