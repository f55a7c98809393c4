"""One place for random but valid values."""

from dataclasses import replace

from hypothesis import strategies as st

from ghoststep.music.feel import Feel, Swing
from ghoststep.music.groove import Groove
from ghoststep.music.kit import LIMB_LETTERS, STROKE_NAMES, VOICE_NAMES
from ghoststep.music.meter import Meter
from ghoststep.music.ornaments import ORNAMENT_INDEX
from ghoststep.music.pattern import Hit, Origin, Pattern
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
    found = draw(st.lists(hits(meter.bar_ticks * bars, ornate=ornate), max_size=max_hits))
    return Pattern(tuple(found), meter, bars, draw(st.sampled_from([8, 16, 12])))


grooves = st.builds(Groove, patterns(), feels, tempos, st.text("abc äß", max_size=12))
ornate_grooves = st.builds(Groove, patterns(ornate=True), balanced_feels, tempos, st.text("abc äß", max_size=12))
documents = st.builds(Document, st.text(min_size=1, max_size=20), ornate_grooves)
