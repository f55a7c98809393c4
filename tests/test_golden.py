"""What a rich groove and many phrases come to, word for word: every change of an outcome has to be looked at.

The files in tests/golden hold what is expected. `phrases.txt` names phrases after "> " ("plain: " on another groove)
and below each what it says and which lines of the state it takes away and adds; a new phrase is a new line. To write
all anew after a change that is meant: GHOST_STEP_GOLDEN=write pytest tests/test_golden.py, then read the difference.
"""

import io
import os
from collections.abc import Callable
from dataclasses import fields
from pathlib import Path
from typing import Any

import mido
import pytest
from tests import golden_drawn as drawn
from tests import golden_drawn_files as drawn_files
from tests import golden_more as more

from ghoststep.craft import ghosts
from ghoststep.feel import blend, looseness, measure, swing_measure, transfer
from ghoststep.feel import touching as feel_touching
from ghoststep.feel.perform import perform
from ghoststep.files import analysis, hits, keymap, midi_in, midi_out, schema, textgrid, textgrid_out
from ghoststep.files.keymap import general_midi_keys
from ghoststep.judge import hands as judge_hands
from ghoststep.judge import names as judge_names
from ghoststep.judge.line import line as line_of
from ghoststep.judge.line import names as names_of
from ghoststep.listen.bars.reading import Hints
from ghoststep.music import errors, feel, meter, ornaments, pattern, spots, time
from ghoststep.music.errors import InputError
from ghoststep.music.frame import Bars
from ghoststep.music.groove import Groove
from ghoststep.music.kit import VOICES
from ghoststep.music.meter import Meter
from ghoststep.session.document import describe, differences, merge
from ghoststep.session.document.document import Document
from ghoststep.session.edits import (
    commit,
    hit_edits,
    rules,
    shelf,
    stroke_edits,
    time_edits,
    touch_edits,
    version_edits,
)
from ghoststep.session.edits.commit import opened
from ghoststep.session.language import arguments, kinds, spot_words, targets, verb
from ghoststep.session.language.doing import do
from ghoststep.session.language.edit_context import EditContext
from ghoststep.session.language.verbs import choosing, hands, touching, versions
from ghoststep.session.language.verbs import feel as feel_verbs
from ghoststep.session.language.verbs import hits as hit_verbs
from ghoststep.session.language.verbs import time as time_verbs
from ghoststep.work.grooves import analysis_of
from ghoststep.work.hits_heard import heard_performance

# The modules whose outcomes stand here: `make mutants` runs this file for faults in them.
COVERED = (
    blend, feel_touching, keymap, looseness, measure, swing_measure, transfer,
    analysis, arguments, choosing, describe, differences, commit, errors, feel, ghosts, hands, hit_edits, hits, kinds,
    merge, meter, midi_in, midi_out, ornaments, judge_hands, judge_names, pattern, rules, schema, shelf, spot_words,
    spots, stroke_edits, targets, textgrid, textgrid_out, time, time_edits, touch_edits, touching, verb,
    version_edits, versions, feel_verbs, hit_verbs, time_verbs,
)  # fmt: skip
GOLDEN = Path(__file__).parent / "golden"
WRITE = os.environ.get("GHOST_STEP_GOLDEN") == "write"
# What is struck before bar 1 puts an empty bar ahead of everything.
EARLY = textgrid.parse_grid(
    "bar 2 tempo 96 -> 120 over 1\nbar 3 meter 3/4\nlean kick -20\n"
    "kick X------x--X----- | X------x--X---x- | X-----------\nhit crash bar 3 2 velocity 99\n"
)
SWUNG = tuple(
    f"tempo 80\nswing {unit} {share}\nmeter {meter}\nhat_closed/{grid} {'x' * steps}"
    for unit, share in ((8, 0.66), (16, 0.6))
    for meter, grid, steps in (("4/4", 32, 32), ("4/4", 24, 24), ("7/8 2+2+3", 32, 28), ("6/8", 16, 12))
)
PLAIN = textgrid.parse_grid(
    "tempo 100\nhat_closed x-x-x-x-x-x-x-x- | x-x-x-x-x-x-x-x- | x-x-x-x-x-x-x-x-\n"
    "snare ----X--o-o--X--o | ----X-------X--- | ----X--o-o--X---\n"
    "kick X------x--X----- | X------x--X---x- | X---x---X-------"
)
BASE = textgrid.parse_grid((GOLDEN / "base.grid.txt").read_text())


def state(context: EditContext) -> list[str]:
    """Everything that a phrase can change, a line each."""
    document, out = context.document, []
    groove = document.groove
    for h in groove.pattern.hits:
        given = [f.name for f in fields(h) if f.name not in _SHORT and getattr(h, f.name) != f.default]
        own = " ".join(f"{name} {getattr(h, name)}" for name in given)
        at = spots.name_at(h.position_ticks, groove.pattern.frame)
        bar = groove.pattern.frame.spot_at(h.position_ticks).bar
        out.append(f"hit {h.voice} {bar}:{at} ({h.position_ticks}) {h.velocity} {h.role.value} {own}".rstrip())
    for f in fields(groove.pattern):
        if f.name == "rules":
            out += [f"rules {line}" for line in more.told(groove.pattern.rules)]
        elif f.name != "hits":
            out.append(f"pattern {f.name} {getattr(groove.pattern, f.name)}")
    out += [f"feel {line}" for line in more.told(groove.feel)]
    out += [f"tempo {f.name} {getattr(groove.tempo, f.name)}" for f in fields(groove.tempo)]
    out += [f"name {document.name} / {groove.name}", f"versions {[s.name for s in document.snapshots]}"]
    out.append(
        f"cursor {context.cursor_ticks} lane {context.voice} chosen {sorted(h.position_ticks for h in context.hits)}"
    )
    return out


_MOST_LINES = 20
_SHORT = {"position_ticks", "voice", "velocity", "role", "key", "origin"}


def outcome(phrases: str) -> str:
    """What phrases, one after another by " ; ", say and change in the base groove."""
    base = PLAIN if phrases.startswith("plain: ") else BASE
    phrases = phrases.removeprefix("plain: ")
    context = EditContext(opened(Document("base", base)))
    before, said = state(context), []
    for phrase in phrases.split(" ; "):
        try:
            words, context = do(context, phrase)
            said.append(words)
        except InputError as error:
            said.append(f"! {error}")
            break
    after = state(context)
    gone = [f"- {line}" for line in before if line not in after]
    new = [f"+ {line}" for line in after if line not in before]
    return "\n".join([" / ".join(said), *shortened(gone), *shortened(new)])


def shortened(lines: list[str]) -> list[str]:
    """All lines where they are few; else the first and the last, and what is between in short."""
    if len(lines) <= _MOST_LINES:
        return lines
    return [*lines[:8], f"  ... {len(lines) - 12} more: {drawn.short(' '.join(lines[8:-4]))}", *lines[-4:]]


def phrase_cases() -> list[tuple[str, str]]:
    blocks = (GOLDEN / "phrases.txt").read_text().split("> ")[1:]
    return [(b.split("\n", 1)[0], b.split("\n", 1)[1].strip("\n")) for b in blocks]


def test_phrases_do_what_they_did() -> None:
    cases = [(phrases, outcome(phrases), expected) for phrases, expected in phrase_cases()]
    if WRITE:
        (GOLDEN / "phrases.txt").write_text("\n".join(f"> {p}\n{now}\n" for p, now, _ in cases))
        return
    assert len(cases) > 100
    for phrases, now, expected in cases:
        assert now == expected, phrases


def midi_text(groove: Groove) -> str:
    """The MIDI file of a groove, event by event."""
    _, write = midi_out.midi_file(groove, general_midi_keys(), division=960)
    data = io.BytesIO()
    write(data)
    file = mido.MidiFile(file=io.BytesIO(data.getvalue()))
    back = midi_in.groove_of(midi_in.parse_midi(data.getvalue(), "base", general_midi_keys()), "base")
    lines = [f"division {file.ticks_per_beat}, kind {file.type}"]
    lines += [f"{i} {message}" for i, track in enumerate(file.tracks) for message in track]
    return "\n".join([*lines, "read again:", *state(EditContext(opened(Document("x", back))))])


def performed(groove: Groove) -> str:
    played = perform(groove)
    rows = zip(played.onset_s, played.voice, played.velocity, played.stroke, played.stops_s, strict=True)
    lines = [f"{t:.6f} {VOICES[v].name} {x} {k} {stop:.4f}" for t, v, x, k, stop in rows]
    return "\n".join([f"length {played.length_s:.6f}", *lines, "as a table:", hits.hits_text(played)])


_CHANGES = (
    "move kick 3& to 3",
    "double-bar 1",
    "ornament flam on snare at 4",
    "velocity +9 on hat bars 1",
    "tempo 101",
)


def said_of(groove: Groove) -> str:
    """Descriptions, differences, proposals, sticking and names."""
    lines = [*describe.summary_line(groove), f"alike {describe.alike_bars(groove.pattern)}"]
    for phrases in (
        "move kick 3& to 3",
        "double-bar 1",
        "ornament flam on snare at 4",
        "velocity +9 on hat",
        "tempo 101",
    ):
        _, other = do(EditContext(opened(Document("base", groove))), phrases)
        lines += [f"after {phrases}:", *differences.words(groove, other.document.groove)]
    for proposal in ghosts.proposals(groove):
        lines.append(f"{proposal.name}: {' '.join(f'{h.position_ticks}/{h.velocity}{h.limb}' for h in proposal.hits)}")
    for way in ("right-handed", "left-handed", "open-handed"):
        hands_of = judge_hands.sticking(groove, way)
        lines.append(f"{way}: {' '.join(f'{i}{limb}' for i, limb in sorted(hands_of.items()))}")
    lines.append(f"line {[(m.tick, m.letters) for m in line_of(groove)]}")
    lines += [str(n) for n in names_of(groove)]
    lines += [f"thinned {len(ghosts.thinned(groove, groove.pattern.hits, p))}" for p in (10, 50, 90)]
    for name, under in (("snare", ("kick",)), ("kick", ())):
        lines.append(f"filled {name} {[h.position_ticks for h in ghosts.filled(groove, name, under)]}")
    return "\n".join(lines)


def spot_names() -> str:
    lines = []
    for m in (Meter(4, 4), Meter(7, 8, (2, 2, 3)), Meter(6, 8), Meter(11, 4, (4, 4, 3))):
        bars = Bars(m)
        for tick in range(0, 2 * m.bar_ticks, 1680):
            names = spots.all_names(tick, bars, 16)
            lines.append(f"{m.full_name} {tick}: {', '.join(names)}; {spots.exact_name(tick % m.bar_ticks, m)}")
    return "\n".join(lines)


def heard() -> str:
    document = heard_performance(perform(BASE), "base", Hints(tempo_bpm=96))
    return analysis.analysis_bytes(_rounded(analysis_of(document))).decode()


def _rounded(value: Any) -> Any:
    """Figures to a hundredth and no shares of belief, which another machine may round otherwise."""
    if isinstance(value, dict):
        return {key: _rounded(v) for key, v in value.items() if key != "share"}
    if isinstance(value, list):
        return [_rounded(v) for v in value]
    return round(value, 2) if isinstance(value, float) else value


CASES: dict[str, Callable[[], str]] = {
    "midi": lambda: midi_text(BASE),
    "performed": lambda: performed(BASE),
    "said": lambda: said_of(BASE),
    "spots": spot_names,
    "grid": lambda: textgrid_out.grid_text(BASE),
    "heard": heard,
    "lines": more.read_lines,
    "midi-read": more.read_midi,
    "tables": more.tables,
    "names": more.names,
    "proposed": more.proposed,
    "followed": lambda: more.followed(BASE),
    "swung": lambda: "\n".join(performed(textgrid.parse_grid(text)) for text in SWUNG),
    "midi-early": lambda: midi_text(EARLY),
    "drawn": drawn.grooves,
    "drawn-midi": lambda: "\n".join(f"{n} {drawn.short(midi_text(drawn.drawn_groove(n)))}" for n in range(60)),
    "drawn-phrases": lambda: drawn.phrases(state),
    "drawn-midi-files": drawn_files.midi_files,
    "drawn-grids": drawn_files.grids,
    "drawn-projects": drawn_files.projects,
    "drawn-tables": drawn_files.tables,
    "drawn-feels": drawn_files.feels,
}


@pytest.mark.parametrize("name", CASES)
def test_a_rich_groove_comes_to_what_it_did(name: str) -> None:
    now, file = CASES[name]().strip("\n") + "\n", GOLDEN / f"{name}.txt"
    if WRITE:
        file.write_text(now)
    assert now == file.read_text()
