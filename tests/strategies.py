"""One place for random but valid values."""

from dataclasses import replace

from hypothesis import strategies as st

from ghoststep.music.feel import Feel, Swing
from ghoststep.music.frame import Bars
from ghoststep.music.groove import Groove
from ghoststep.music.kit import LIMB_LETTERS, STROKE_NAMES, VOICE_NAMES
from ghoststep.music.meter import Meter
from ghoststep.music.ornaments import ORNAMENT_INDEX
from ghoststep.music.pattern import Hit, Origin, Pattern
from ghoststep.music.rules import GridPassage, Rules
from ghoststep.music.time import TempoMap, step_ticks
from ghoststep.music.touch import Role
from ghoststep.session.document.document import Document

GRIDS = (8, 12, 16, 20, 24, 28, 32)
meters = st.sampled_from(
    [
        Meter(4, 4),
        Meter(3, 4),
        Meter(6, 8),
        Meter(7, 8, (2, 2, 3)),
        Meter(7, 8, (3, 2, 2)),
        Meter(11, 4, (4, 4, 3)),
        Meter(5, 16),
    ]
)
swings = st.builds(Swing, st.sampled_from([8, 16]), st.floats(0.5, 0.75))
feels = st.builds(
    Feel,
    swings,
    st.dictionaries(st.sampled_from(VOICE_NAMES), st.floats(-30, 30), max_size=4),
    st.sampled_from([0.0, 0.0, 4.0]),
    st.integers(0, 9),
)
balanced_feels = st.builds(replace, feels, balance_db=st.sampled_from([{}, {"kick": 2.0, "hat": -4.0}]))
tempos = st.one_of(
    st.lists(st.tuples(st.integers(1, 40), st.floats(40, 260), st.floats(40, 260)), min_size=1, max_size=4).map(
        lambda parts: TempoMap.of(
            (sum(p[0] for p in parts[:i]) * 10080, bpm, to if i < len(parts) - 1 else bpm)
            for i, (_, bpm, to) in enumerate(parts)
        )
    ),
    st.floats(40, 260).map(TempoMap.constant),
    st.tuples(st.floats(40, 260), st.floats(40, 260)).map(lambda b: TempoMap((0, 4 * 20160), b)),
)
origins = st.one_of(st.none(), st.builds(Origin, st.floats(0, 60), st.floats(0, 1)))


@st.composite
def hits(draw: st.DrawFn, length_ticks: int, grid: int = 0, *, ornate: bool = False) -> Hit:
    grid = grid or draw(st.sampled_from(GRIDS))
    step = step_ticks(grid)
    return Hit(
        draw(st.integers(0, (length_ticks - 1) // step)) * step,
        draw(st.sampled_from(VOICE_NAMES)),
        draw(st.integers(1, 127)),
        draw(st.sampled_from(list(Role))),
        draw(st.sampled_from(STROKE_NAMES)),
        draw(st.sampled_from(("", *LIMB_LETTERS))),
        draw(st.one_of(st.just(0.0), st.floats(-40, 40))),
        draw(st.booleans()),
        draw(origins),
        draw(st.sampled_from(("", "", "", *ORNAMENT_INDEX))) if ornate else "",
        draw(st.sampled_from((0, 0, step // 2))) if ornate else 0,
    )


@st.composite
def patterns(draw: st.DrawFn, *, max_hits: int = 20, ornate: bool = False) -> Pattern:
    meter, bars = draw(meters), draw(st.integers(1, 4))
    # As the commit leaves a groove: no two hits that only limb or ornament tell apart, whose order is open.
    apart_by = (lambda h: h.sort_key) if ornate else None
    found = draw(st.lists(hits(meter.bar_ticks * bars, ornate=ornate), max_size=max_hits, unique_by=apart_by))
    return Pattern(tuple(found), meter, bars, draw(st.sampled_from([8, 16, 12])))


@st.composite
def frames(draw: st.DrawFn, bars: int) -> Bars:
    """Meters of some bars, changing here and there."""
    rows = draw(st.dictionaries(st.integers(2, max(bars, 2)), meters, max_size=3)) if bars > 1 else {}
    return Bars.of({1: draw(meters), **rows})


LEVELS = ((), (("snare", Role.GHOST, 22),), (("kick", Role.NORMAL, 70), ("ride", Role.ACCENT, 101)))


@st.composite
def whole_patterns(draw: st.DrawFn) -> Pattern:
    """Patterns with everything a groove can hold."""
    bars = draw(st.integers(1, 6))
    frame = draw(frames(bars))
    length = int(frame.start_of(bars + 1))
    found = draw(st.lists(hits(length, ornate=True), max_size=16, unique_by=lambda h: h.sort_key))
    voices = st.sampled_from(VOICE_NAMES)
    passages = apart(draw(st.lists(grid_passages(frame, bars), max_size=3)))
    rules = Rules(
        levels=draw(
            st.sampled_from(((), (("snare", Role.GHOST, 22),), (("kick", Role.NORMAL, 70), ("ride", Role.ACCENT, 101))))
        ),
        cycles=draw(st.sampled_from(((), ((0, 15120),), ((2, 7000),)))),
        linear=draw(st.booleans()),
        ring_over=draw(st.booleans()),
    )
    lane_grids = tuple(sorted(draw(st.dictionaries(voices, st.sampled_from(GRIDS), max_size=2)).items()))
    grid = draw(st.sampled_from([8, 16, 12]))
    return Pattern(tuple(found), frame.first, bars, grid, lane_grids, tuple(passages), rules, frame.changes)


def apart(passages: list[GridPassage]) -> list[GridPassage]:
    """Passages of the same voices do not overlap: whoever sets a grid cuts what was set before."""
    out: list[GridPassage] = []
    for p in passages:
        if all(p.voices != q.voices or p.end_ticks <= q.start_ticks or q.end_ticks <= p.start_ticks for q in out):
            out.append(p)
    return out


@st.composite
def grid_passages(draw: st.DrawFn, frame: Bars, bars: int) -> GridPassage:
    first = draw(st.integers(1, bars))
    start, end = int(frame.start_of(first)), int(frame.start_of(draw(st.integers(first, bars)) + 1))
    if draw(st.booleans()):  # part of a bar
        start += 2520
        end -= draw(st.sampled_from((0, 1260)))
    voices = draw(st.sampled_from(((), ("snare",), ("hat_closed", "kick"))))
    return GridPassage(start, end, draw(st.sampled_from(GRIDS)), voices)


whole_grooves = st.builds(
    Groove, whole_patterns(), balanced_feels, tempos, st.text("abc äß", max_size=12).map(str.strip)
)
grooves = st.builds(Groove, patterns(), feels, tempos, st.text("abc äß", max_size=12))
ornate_grooves = st.builds(Groove, patterns(ornate=True), balanced_feels, tempos, st.text("abc äß", max_size=12))
documents = st.builds(Document, st.text(min_size=1, max_size=20), ornate_grooves)
