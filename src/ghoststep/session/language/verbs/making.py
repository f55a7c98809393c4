"""Verbs that make parts: fills, styles to start from, time lines, the same rhythm on other voices, simpler parts."""

from collections.abc import Callable
from dataclasses import replace
from typing import Annotated

from ghoststep.craft.fills import CELLS, PATH, Fill, filled
from ghoststep.craft.layers import LAYERS, laid, layer
from ghoststep.craft.styles import STYLES, style
from ghoststep.craft.timelines import SIDES, TIME_LINES, positions, recognised, time_line
from ghoststep.judge.check import impossible
from ghoststep.music.errors import InputError
from ghoststep.music.kit import voice
from ghoststep.music.pattern import Hit, Pattern, hit
from ghoststep.music.spots import name_at, parse_spot
from ghoststep.music.time import TICKS_PER_QUARTER
from ghoststep.music.touch import Role
from ghoststep.session.document.document import Document
from ghoststep.session.language.edit_context import Done, EditContext, settled
from ghoststep.session.language.kinds import Amount, ManyVoices, Number, OneOf, OneVoice, Text, VoicePath
from ghoststep.session.language.verb import After, verb
from ghoststep.session.language.voice_words import voice_named
from ghoststep.session.words import count

_EIGHTH = TICKS_PER_QUARTER // 2
_GRID = Number("notes to a whole", low=8, high=48, whole=True, signed=False, name="N")
_BAR = Number("a bar", low=1, high=4096, whole=True, signed=False, name="BAR")
_LAYERS = Number("a number of layers", low=1, high=6, whole=True, signed=False, name="N")
_STEPS = Number("a number of steps", low=1, high=4, whole=True, signed=False, name="1-4")
_VARY = Number("strokes that may vary", low=0, high=2, whole=True, signed=False, name="0-2")
_BEATS = Number("a number of beats", low=1, high=16, whole=True, signed=False, name="BEATS")


def _changed(context: EditContext, words: str, gone: set[int], new: list[Hit]) -> Done:
    pattern = context.document.groove.pattern
    return settled(context, (words, context.document.with_groove(pattern=pattern.with_hits(gone, new))))


@verb(
    "fill-in",
    f"a fill over the last beats of a bar; cells are stickings such as {', '.join(CELLS[:5])}",
    example="fill-in 2 in 4 cell RLLK over snare tom_high tom_low",
)
def _fill_in(
    context: EditContext,
    beats: Annotated[Amount, _BEATS] = Amount(4.0),
    bar: Annotated[Amount | None, After("in", _BAR)] = None,
    cell: Annotated[str, After("cell", Text("RLLK"))] = "RL",
    path: Annotated[tuple[str, ...], After("over", VoicePath())] = PATH,
    grid: Annotated[Amount, After("grid", _GRID)] = Amount(16.0),
    move: Annotated[str, After("move", OneOf("how the hands move", ("cell", "beat")))] = "beat",
    start: Annotated[str, After("from", Text("SPOT"))] = "",
    landing: Annotated[str, After("landing", Text("crash|nothing|SPOT"))] = "crash",
    keep: Annotated[tuple[str, ...], After("keep", ManyVoices())] = (),
) -> Done:
    pattern = context.document.groove.pattern
    number = int(bar.value) if bar else pattern.bars
    if number > pattern.bars:
        raise InputError(f"There is no bar {number}: the groove has {count(pattern.bars, 'bar')}.")
    meter = pattern.frame.meter_of(number)
    end = pattern.frame.start_of(number + 1)
    begin = end - min(int(beats.value) * meter.unit_ticks, 2 * meter.bar_ticks)
    if start:
        begin = spot_in(pattern, number, start)
    if landing not in ("crash", "nothing"):
        following = number % pattern.bars + 1
        goal = spot_in(pattern, following, landing)
    else:
        goal = end % pattern.length_ticks
    letters = cell.upper().replace(" ", "")
    short = letters.endswith("!")  # the last cell without its last stroke
    fill = Fill(letters.rstrip("!"), path, int(grid.value), move, landing != "nothing", short)
    gone, new = filled(pattern, max(begin, 0), end, fill, landing=goal)
    gone = {i for i in gone if pattern.hits[i].voice not in keep}
    kept = (
        {(pattern.hits[i].position_ticks, pattern.hits[i].voice) for i in pattern.between(begin, end)}
        if keep
        else set()
    )
    new = [h for h in new if h.voice not in keep or (h.position_ticks, h.voice) not in kept]
    used = [v for v in dict.fromkeys(path) if any(h.voice == v for h in new)]
    words = f"Fill in bar {number}: {fill.cell} over {', '.join(used)}"
    return _changed(context, words, gone, new)


def spot_in(pattern: Pattern, bar: int, name: str) -> int:
    """The ticks of a spot of a bar; an InputError where it has none such."""
    return pattern.frame.start_of(bar) + parse_spot(name, pattern.frame, pattern.grid, bar=bar).tick


@verb(
    "start",
    "a plain groove of a style to start from, whole or so many of its layers, the feet first or the hands",
    example="start bossa layers 2 first hands",
)
def _start(
    context: EditContext,
    name: Annotated[str, OneOf("style", tuple(s.name for s in STYLES))],
    layers: Annotated[Amount | None, After("layers", _LAYERS)] = None,
    first: Annotated[str, After("first", OneOf("what comes first", ("feet", "hands")))] = "feet",
) -> Done:
    found = style(name)
    groove = found.groove(int(layers.value) if layers else None, hands_first=first == "hands")
    title = context.document.name
    if title == Document().name:  # nobody named it yet
        title = found.name.replace("-", " ").capitalize()
    document = replace(context.document, name=title, groove=groove.changed(name=title), form=None)
    told = f"{found.name}: {found.about} ({found.low_bpm} to {found.high_bpm} BPM)"
    return settled(context, (told[:1].upper() + told[1:], document))


@verb(
    "lay",
    "what a hand or a foot plays through: hats, rides, feet; where both hands are busy it leaves the stroke out",
    example="lay hat-off-open",
)
def _layer(context: EditContext, name: Annotated[str, OneOf("layer", tuple(x.name for x in LAYERS))]) -> Done:
    found = layer(name)
    gone, new, left = laid(context.document.groove.pattern, found)
    words = f"{found.about[:1].upper()}{found.about[1:]}"
    return _changed(
        context, words + (f", {count(left, 'stroke')} left out where the hands are busy" if left else ""), gone, new
    )


@verb(
    "time-line",
    "a clave or another time line on a voice, 3-2 or 2-3, in eighths or in sixteenths",
    example="time-line son with cowbell side 2-3",
)
def _time_line(
    context: EditContext,
    name: Annotated[str, OneOf("time line", tuple(t.name for t in TIME_LINES))],
    on_voice: Annotated[str, After("with", OneVoice())] = "cross_stick",
    side: Annotated[str, After("side", OneOf("side", SIDES))] = "3-2",
    unit: Annotated[str, After("in", OneOf("step", ("8", "16")))] = "",
    vary: Annotated[Amount, After("vary", _VARY)] = Amount(0.0),
) -> Done:
    pattern = context.document.groove.pattern
    line = time_line(name)
    step = {"8": line.unit, "16": line.unit // 2}.get(unit, 0)
    if not step and line.length * line.unit > pattern.length_ticks:
        step = line.unit // 2
    gone = {i for i, h in enumerate(pattern.hits) if h.voice == on_voice}
    level = pattern.rules.level_of(on_voice, Role.NORMAL)
    struck = positions(line, pattern.length_ticks, side, step, vary=int(vary.value))
    later = len(set(struck) - set(positions(line, pattern.length_ticks, side, step)))
    new = [hit(t, on_voice, level) for t in struck]
    words = f"{side + ' ' if line.turns else ''}{name} on the {on_voice.replace('_', ' ')}"
    words += f"; {count(later, 'stroke')} a step later" if vary.value else ""
    return _changed(context, words[:1].upper() + words[1:], gone, new)


@verb("time-lines", "says which claves and time lines are played", example="time-lines")
def _time_lines(context: EditContext) -> Done:
    found = recognised(context.document.groove.pattern)
    if not found:
        return "No clave and no other time line is played", context
    return "; ".join(dict.fromkeys(r.words for r in found)), context


@verb(
    "revoice",
    "the same rhythm on other voices: a limb's strokes, a role's, or those that are named, go round some voices",
    on_hits=True,
    example="revoice to tom_high snare hat_closed on limb L",
)
def _revoice(context: EditContext, voices: Annotated[str, After("to", Text("VOICES"))]) -> Done:
    names = [voice_named(word) for word in voices.split()]
    if not names or any(n is None for n in names):
        raise InputError(f"'{voices}' names no row of voices: write it like 'revoice to tom_low snare on limb R'.")
    if not context.hits:
        raise InputError("Choose the hits that go to other voices first.")
    pattern = context.document.groove.pattern
    row = [i for i in context.indices if voice(pattern.hits[i].voice).limb in ("R", "L")]
    taken = {(h.position_ticks, h.voice) for i, h in enumerate(pattern.hits) if i not in set(row)}
    new, clashes = [], []
    for k, i in enumerate(row):
        h = pattern.hits[i]
        name = str(names[k % len(names)])
        if (h.position_ticks, name) in taken:  # somebody strikes there already: it stays where it is
            spot = name_at(h.position_ticks, pattern.frame)
            clashes.append(f"bar {pattern.frame.spot_at(h.position_ticks).bar} {spot}" if pattern.bars > 1 else spot)
            name = h.voice
        taken.add((h.position_ticks, name))
        new.append(replace(h, voice=name, stroke="plain"))
    words = f"{count(len(new), 'stroke')} round {', '.join(map(str, names))}"
    if clashes:
        more = f" and {len(clashes) - 4} more" if len(clashes) > 4 else ""
        words += f"; on {', '.join(clashes[:4])}{more} somebody strikes there already: left where it was"
    done = _changed(context, words, set(row), new)
    return _with_reach(context, done)


def _with_reach(context: EditContext, done: Done) -> Done:
    """Words for the strokes that nobody can reach now."""
    words, after = done
    terms = context.document.judged.terms
    more = impossible(after.document.groove, terms) - impossible(context.document.groove, terms)
    return (f"{words}; {count(more, 'spot')} cannot be reached: F4 shows them" if more > 0 else words), after


@verb(
    "simplify",
    "easier by so many steps, with its core kept: no ornaments, no ghosts, no doubles, eighths for sixteenths",
    example="simplify 2",
)
def _simplify(context: EditContext, steps: Annotated[Amount, _STEPS] = Amount(1.0)) -> Done:
    pattern = context.document.groove.pattern
    told: list[str] = []
    for name, work in _SIMPLER:
        if len(told) == int(steps.value):
            break
        after = work(pattern)
        if after != pattern:
            pattern = after
            told.append(name)
    if not told:
        return "It is as simple as it can be and still be it", context
    return settled(context, (f"Simpler: {', '.join(told)}", context.document.with_groove(pattern=pattern)))


def _without(pattern: Pattern, gone: Callable[[Hit], bool]) -> Pattern:
    return pattern.with_hits({i for i, h in enumerate(pattern.hits) if gone(h)}, ())


def _plain(pattern: Pattern) -> Pattern:
    ornate = {i: replace(h, ornament="") for i, h in enumerate(pattern.hits) if h.ornament}
    return _without(pattern.with_hits(ornate.keys(), ornate.values()), lambda h: h.grace)


def _no_ghosts(pattern: Pattern) -> Pattern:
    return _without(pattern, lambda h: h.role is Role.GHOST)


def _no_doubles(pattern: Pattern) -> Pattern:
    """Of two strokes of kick or snare a sixteenth apart the one off the eighths goes."""
    struck = {(h.position_ticks, h.voice) for h in pattern.hits}

    def gone(h: Hit) -> bool:
        if h.position_ticks % _EIGHTH == 0 or voice(h.voice).group not in ("kick", "snare"):
            return False
        return any((h.position_ticks + d, h.voice) in struck for d in (-_EIGHTH // 2, _EIGHTH // 2))

    return _without(pattern, gone)


def _eighths(pattern: Pattern) -> Pattern:
    time = ("hat", "cymbals", "perc")
    return _without(pattern, lambda h: h.position_ticks % _EIGHTH != 0 and voice(h.voice).group in time)


_SIMPLER: tuple[tuple[str, Callable[[Pattern], Pattern]], ...] = (
    ("no ornaments", _plain),
    ("no ghosts", _no_ghosts),
    ("no doubles", _no_doubles),
    ("eighths for sixteenths", _eighths),
)
