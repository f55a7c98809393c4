"""Plain grooves to start from: each in layers, with its usual tempi and how it is counted.

They are the bare skeletons that the names stand for among drummers, written by us; nothing more than a place to begin.
"""

from dataclasses import dataclass

from ghoststep.music.errors import InputError
from ghoststep.music.feel import Feel, Swing
from ghoststep.music.groove import Groove
from ghoststep.music.meter import Meter
from ghoststep.music.pattern import Hit, Pattern
from ghoststep.music.rules import Rules
from ghoststep.music.time import TempoMap, step_ticks
from ghoststep.music.touch import ROLE_VELOCITY, ROLES


@dataclass(frozen=True)
class Style:
    """low_bpm, high_bpm: usual tempi; head: lines of a text grid for meter, grid and swing; layers: lines of lanes, the
    feet first."""

    name: str
    about: str
    low_bpm: int
    high_bpm: int
    head: tuple[str, ...]
    layers: tuple[str, ...]

    @property
    def bpm(self) -> int:
        """The tempo it begins at."""
        return (self.low_bpm + self.high_bpm) // 2

    def groove(self, layers: int | None = None, *, hands_first: bool = False) -> Groove:
        """The groove, with only the first layers where asked: the feet first, or the hands."""
        rows = self.layers[::-1] if hands_first else self.layers
        told = dict(line.split(" ", 1) for line in self.head)
        meter, grid = Meter.parse(told.get("meter", "4/4")), int(told.get("grid", 16))
        bars = self.layers[0].count("|") + 1
        hits = [h for row in rows[:layers] for h in _row(row, meter, grid)]
        swing = told.get("swing", "").split()
        feel = Feel(Swing(int(swing[0]), float(swing[1]))) if swing else Feel()
        pattern = Pattern(tuple(hits), meter, bars, grid, rules=Rules(linear=told.get("linear") == "on"))
        return Groove(pattern, feel, TempoMap.constant(float(self.bpm)), self.name)


def _row(row: str, meter: Meter, grid: int) -> list[Hit]:
    """The hits of a lane as it is written in a text grid."""
    name, letters = row.split(" ", 1)
    steps = letters.replace(" ", "").replace("|", "")
    assert len(steps) * step_ticks(grid) % meter.bar_ticks == 0, f"{row}: the bars are not full"
    roles = {spec.grid_letter: spec.role for spec in ROLES}
    return [
        Hit(i * step_ticks(grid), name, ROLE_VELOCITY[roles[c]], roles[c]) for i, c in enumerate(steps) if c in roles
    ]


def _style(name: str, about: str, tempi: tuple[int, int], head: str, *layers: str) -> Style:
    return Style(name, about, *tempi, tuple(line for line in head.split(";") if line), layers)


STYLES: tuple[Style, ...] = (
    _style("four-on-the-floor", "a kick on every beat, the hat open between", (112, 132), "",
           "kick X---X---X---X---", "snare ----X-------X---", "hat_open --x---x---x---x-"),
    _style("backbeat-rock", "eighths on the hat over a backbeat", (92, 138), "",
           "kick X-------X-x-----", "snare ----X-------X---", "hat_closed x-x-x-x-x-x-x-x-"),
    _style("pop", "a plain beat for songs, the kick once more before 3", (96, 124), "",
           "kick X-----x-X-------", "snare ----X-------X---", "hat_closed x-x-x-x-x-x-x-x-"),
    _style("ballad", "slow, with a cross-stick", (58, 80), "",
           "kick X------xX-------", "cross_stick ----X-------X---", "hat_closed x-x-x-x-x-x-x-x-"),
    _style("disco", "four on the floor with sixteenths that open on every &", (108, 126), "",
           "kick X---X---X---X---", "snare ----X-------X---", "hat_closed xx-xxx-xxx-xxx-x",
           "hat_open --x---x---x---x-"),
    _style("funk-sixteenths", "sixteenths with ghosts under them", (88, 112), "",
           "kick X--x------x--x--", "snare ----X--o-o--X--o", "hat_closed xxxxxxxxxxxxxxxx"),
    _style("linear-funk", "one limb at a time", (84, 104), "linear on",
           "kick X--x------x--x--", "snare ----X--o-o--X--o", "hat_closed -xx--xx-x--x--x-"),
    _style("half-time", "the backbeat on 3", (120, 160), "",
           "kick X-----x---x-----", "snare --------X-------", "hat_closed x-x-x-x-x-x-x-x-"),
    _style("shuffle", "eighths that swing as triplets", (92, 138), "swing 8 0.6667",
           "kick X-------X-------", "snare ----X-------X---", "hat_closed x-x-x-x-x-x-x-x-"),
    _style("slow-twelve-eight", "slow, counted in four threes", (52, 74), "meter 12/8;grid 8",
           "kick X----xX-----", "snare ---X-----X--", "hat_closed xxxxxxxxxxxx"),
    _style("jazz-ride", "ride for time, the pedal on 2 and 4, the snare answers", (112, 210), "swing 8 0.63",
           "hat_pedal ----x-------x---", "kick o---o---o---o---", "ride X---x-x-X---x-x-",
           "snare ------o-------o-"),
    _style("bossa", "feet in one, a cross-stick that answers over two bars", (112, 146), "",
           "kick X-----xxX-----xx | X-----xxX-----xx", "hat_pedal ----x-------x--- | ----x-------x---",
           "cross_stick x-----x-----x--- | ----x-----x-----", "hat_closed x-x-x-x-x-x-x-x- | x-x-x-x-x-x-x-x-"),
    _style("samba-in-two", "counted in two, the feet rolling", (92, 124), "meter 2/2;grid 16",
           "kick X--xX--xX--xX--x", "hat_pedal --x---x---x---x-", "snare o--o--o-o--o--o-", "ride x-xxx-xxx-xxx-xx"),
    _style("one-drop", "nothing on 1, all of it on 3", (66, 84), "swing 16 0.56",
           "kick --------X-------", "cross_stick --------X-------", "hat_closed x-x-x-x-x-x-x-x-"),
    _style("two-step-break", "a broken two bars, quick", (158, 178), "",
           "kick X---------X----- | X---------X-----", "snare ----X--o-o--X--- | ----X--o-o--X--o",
           "hat_closed x-x-x-x-x-x-x-x- | x-x-x-x-x-x-x-x-"),
    _style("metal-gallop", "an eighth and two sixteenths below a backbeat", (96, 122), "",
           "kick X-xxX-xxX-xxX-xx", "snare ----X-------X---", "crash X---------------", "ride ----x---x---x---"),
)  # fmt: skip


def style(name: str) -> Style:
    """The style of that name.

    Raises
    ------
    InputError
        Naming those there are.
    """
    found = next((s for s in STYLES if s.name == name), None)
    if found is None:
        raise InputError(f"'{name}' is no style to start from. There are: {', '.join(s.name for s in STYLES)}.")
    return found
