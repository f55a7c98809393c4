"""Songs out: parts as text grids, variations as changes, sections and the form."""

from dataclasses import replace

from ghoststep.files.textgrid_feel import feel_lines, figure
from ghoststep.files.textgrid_hits import single_lines
from ghoststep.files.textgrid_out import grid_text, head_lines
from ghoststep.music.form import Form, Part, Section, bar_words
from ghoststep.music.groove import Groove
from ghoststep.music.time import TempoMap
from ghoststep.music.unrolled import head_tempo
from ghoststep.session.form.text import plays_text


def song_text(form: Form, groove: Groove) -> str:
    """The text grid of a form; the groove gives name, tempo, meter, grid, feel and rules.

    Reading it gives the same form, and unrolled the same groove.
    """
    header = _header(form, groove)
    lines = head_lines(header, groove.pattern.frame)
    known = set(lines)
    if any(s.meter for s in form.sections):  # a part that says none would take the section's
        known = {line for line in lines if not line.startswith("meter ")}
    steady = replace(header, tempo=TempoMap.constant(header.tempo.main_bpm))
    for part in form.parts:
        lines += ["", *_part(part, steady, known)]
    if form.sections:
        lines.append("")
    for section in form.sections:
        lines += _section(section)
    if form.order:
        lines.append(f"form = {_order(form.order)}")
        frame = groove.pattern.frame
        for single in form.singles:
            start = frame.start_of(single.bar)
            hits = [h.moved(h.position_ticks + start) for h in single.hits]
            told = single_lines(hits, single.voice, start + single.tick, frame, groove.pattern.rules)
            lines += [f"  {line}" for line in told]
    return "\n".join(lines) + "\n"


def _header(form: Form, groove: Groove) -> Groove:
    """The groove without its bars: what all parts share."""
    first = form.parts[0].pattern.meter if form.parts else groove.pattern.meter
    pattern = replace(groove.pattern, hits=(), bars=1, meter=first, meter_changes=(), passages=())
    return replace(groove, pattern=pattern, tempo=head_tempo(form, groove.tempo))


def _part(part: Part, header: Groove, known: set[str]) -> list[str]:
    if part.base:
        return [
            f"part {part.name} = {part.base}",
            *(f"  {p}" for p in part.changes),
            *(f"  aside {p}" for p in part.aside),
        ]
    text = grid_text(replace(header, pattern=replace(part.pattern, rules=header.pattern.rules)))
    # A lane that repeats is counted in steps of the whole's grid, so a part with a grid of its own would say it anew.
    own = [line for line in text.splitlines() if line not in known and not line.startswith("cycle ")]
    return [f"part {part.name}", *own]


def _section(section: Section) -> list[str]:
    told = plays_text(section.plays) + "".join(f" | ending {plays_text(ending)}" for ending in section.endings)
    out = [f"section {section.name} = {told}"]
    if section.tempo_bpm is not None:
        out.append(f"  tempo {figure(section.tempo_bpm)}")
    if section.meter is not None:
        out.append(f"  meter {section.meter.full_name}")
    if section.before:
        out.append(f"  before {plays_text(section.before)}")
    out += [f"  cue {f'to {to} ' if to else ''}{phrase}" for to, phrase in section.cues]
    if section.feel is not None:
        out += [f"  {line}" for line in feel_lines(section.feel)]
    return [*out, *(f"  {bar_words(bar)} {phrase}" for bar, phrase in section.exceptions)]


def _order(names: tuple[str, ...]) -> str:
    return " ".join(names)
