"""Words of SFZ and what each sets in a region: one table, so that what is understood can be told and tested.

A word that is not in the table is listed with how often it stands there, and the rest plays.
"""

import re
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import Any

from ghoststep.music.errors import InputError
from ghoststep.sound.sampled.filters import KINDS
from ghoststep.sound.sampled.region import Envelope, Filter, Region

_NOTES = {"c": 0, "d": 2, "e": 4, "f": 5, "g": 7, "a": 9, "b": 11}
_NOTE = re.compile(r"([a-gA-G])([#b♯♭]?)(-?\d+)$")


def number(text: str) -> float:
    """A number; an InputError where it is none."""
    try:
        out = float(text)
    except ValueError as error:
        raise InputError(f"'{text}' is no number") from error
    if not abs(out) < 1e9:
        raise InputError(f"'{text}' is out of reach")
    return out


def whole(text: str) -> int:
    return round(number(text))


def key(text: str) -> int:
    """A key as a number or a name: c4 is 60; -1 is no key."""
    found = _NOTE.match(text)
    if not found:
        return whole(text)
    letter, sign, octave = found.groups()
    return 12 * (int(octave) + 1) + _NOTES[letter.lower()] + {"": 0, "#": 1, "♯": 1, "b": -1, "♭": -1}[sign]


@dataclass
class Setting:
    """A region as its words come in, before it is made: plain fields, and those of filters and envelope."""

    fields: dict[str, Any] = field(default_factory=dict)
    filters: dict[int, dict[str, Any]] = field(default_factory=dict)
    envelope: dict[str, Any] = field(default_factory=dict)
    curve: dict[int, float] = field(default_factory=dict)
    controllers: dict[int, list[int]] = field(default_factory=dict)
    one_shot: bool = True
    trigger: str = "attack"
    transpose: float = 0.0
    tune: float = 0.0
    volume: float = 0.0

    def pair(self, name: str, place: int, value: Any, usual: tuple[Any, Any]) -> None:
        """Set the lower (0) or the upper (1) end of a range."""
        row = list(self.fields.get(name, usual))
        row[place] = value
        self.fields[name] = tuple(row)

    def region(self) -> Region:
        """The region that its words describe."""
        filters = tuple(
            Filter(**{"kind": "lpf_2p", **row}) for _, row in sorted(self.filters.items()) if row.get("cutoff_hz")
        )
        rows = tuple((n, low, high) for n, (low, high) in sorted(self.controllers.items()))
        curve = tuple(sorted({0: 0.0, 127: 1.0, **self.curve}.items())) if self.curve else ()
        fields = {**self.fields, "tune_cents": self.tune + 100 * self.transpose, "gain_db": self.volume}
        return Region(
            filters=filters, envelope=Envelope(**self.envelope), controllers=rows, curve=curve, **fields
        )  # fmt: skip


Set = Callable[[Setting, str], None]


def _field(name: str, read: Callable[[str], Any], scale: float | None = None) -> Set:
    def set_it(to: Setting, text: str) -> None:
        to.fields[name] = read(text) * scale if scale else read(text)

    return set_it


def _end(name: str, place: int, read: Callable[[str], Any], usual: tuple[Any, Any]) -> Set:
    return lambda to, text: to.pair(name, place, read(text), usual)


def _filter(which: int, name: str, read: Callable[[str], Any]) -> Set:
    def set_it(to: Setting, text: str) -> None:
        to.filters.setdefault(which, {})[name] = read(text)

    return set_it


def _envelope(name: str) -> Set:
    def set_it(to: Setting, text: str) -> None:
        to.envelope[name] = number(text)

    return set_it


def _one_key(to: Setting, text: str) -> None:
    to.fields["keys"] = (key(text), key(text))
    to.fields["keycenter"] = key(text)


def _kind(text: str) -> str:
    kind = text.lower()
    if kind not in KINDS:
        raise InputError(f"there is no filter '{text}' here (there are {', '.join(KINDS)})")
    return kind


def _one_of(name: str, *known: str) -> Set:
    def set_it(to: Setting, text: str) -> None:
        if text not in known:
            raise InputError(f"'{text}' is not played ({', '.join(known)} are)")
        if name == "trigger":
            to.trigger = text

    return set_it


def _attribute(name: str, read: Callable[[str], Any]) -> Set:
    return lambda to, text: setattr(to, name, read(text))


def _keycenter(to: Setting, text: str) -> None:
    if text != "sample":  # what the file itself says is not looked for
        to.fields["keycenter"] = key(text)


def _filters(which: int) -> dict[str, Set]:
    """The words of the first or second filter."""
    suffix = "" if which == 1 else str(which)
    head = "fil" if which == 1 else f"fil{which}"
    return {
        f"{head}_type": _filter(which, "kind", _kind),
        f"cutoff{suffix}": _filter(which, "cutoff_hz", number),
        f"resonance{suffix}": _filter(which, "resonance_db", number),
        f"{head}_veltrack": _filter(which, "veltrack_cents", number),
        f"{head}_keytrack": _filter(which, "keytrack_cents", number),
        f"{head}_keycenter": _filter(which, "keycenter", key),
        f"{head}_random": _filter(which, "random_cents", number),
    }


SETTINGS: Mapping[str, Set] = {
    "sample": _field("sample", str),
    "key": _one_key,
    "lokey": _end("keys", 0, key, (0, 127)), "hikey": _end("keys", 1, key, (0, 127)),
    "lovel": _end("velocities", 0, whole, (0, 127)), "hivel": _end("velocities", 1, whole, (0, 127)),
    "lorand": _end("dice", 0, number, (0.0, 1.0)), "hirand": _end("dice", 1, number, (0.0, 1.0)),
    "seq_position": _end("seq", 0, whole, (1, 1)), "seq_length": _end("seq", 1, whole, (1, 1)),
    "xfin_lovel": _end("fade_in", 0, whole, (0, 0)), "xfin_hivel": _end("fade_in", 1, whole, (0, 0)),
    "xfout_lovel": _end("fade_out", 0, whole, (127, 127)), "xfout_hivel": _end("fade_out", 1, whole, (127, 127)),
    "xf_velcurve": _field("power_fade", lambda text: text != "gain"),
    "group": _field("group", whole), "off_by": _field("off_by", whole),
    "polyphony_group": _field("group", whole),
    "offset": _field("offset", whole), "offset_random": _field("offset_random", whole), "end": _field("end", whole),
    "pitch_keycenter": _keycenter, "pitch_keytrack": _field("keytrack", number),
    "pitch_random": _field("random_cents", number),
    "tune": _attribute("tune", number), "pitch": _attribute("tune", number),
    "transpose": _attribute("transpose", number),
    "volume": _attribute("volume", number), "gain": _attribute("volume", number),
    "amplitude": _field("amplitude", number), "amp_random": _field("random_db", number),
    "amp_veltrack": _field("veltrack", number),
    "pan": _field("pan", number), "width": _field("width", number),
    **_filters(1), **_filters(2),
    "ampeg_delay": _envelope("delay_s"), "ampeg_attack": _envelope("attack_s"), "ampeg_hold": _envelope("hold_s"),
    "ampeg_decay": _envelope("decay_s"), "ampeg_sustain": _envelope("sustain"),
    "ampeg_vel2attack": _envelope("veltrack_attack_s"), "ampeg_vel2decay": _envelope("veltrack_decay_s"),
    "loop_mode": _one_of("loop_mode", "one_shot", "no_loop"), "trigger": _one_of("trigger", "attack"),
}  # fmt: skip
# Words without a meaning for a struck sound that is played to its end, and remarks of whoever wrote the kit.
WITHOUT_MEANING = frozenset({
    "ampeg_release", "loprog", "hiprog", "lochan", "hichan", "note_polyphony", "polyphony", "rt_decay", "sw_default",
    "off_mode", "off_time", "group_label", "region_label", "master_label", "global_label", "sample_quality",
    "bend_up", "bend_down", "count", "output",
})  # fmt: skip
_CURVE = re.compile(r"amp_velcurve_(\d+)$")
_CONTROLLER = re.compile(r"(lo|hi)cc(\d+)$")


def apply(to: Setting, word: str, text: str) -> bool:
    """Set what a word says; False where it is not understood.

    Raises
    ------
    InputError
        Where the word is known and its value is not.
    """
    if word in SETTINGS:
        SETTINGS[word](to, text)
    elif found := _CURVE.match(word):
        to.curve[min(int(found[1]), 127)] = number(text)
    elif found := _CONTROLLER.match(word):
        row = to.controllers.setdefault(min(int(found[2]), 511), [0, 127])
        row[found[1] == "hi"] = whole(text)
    else:
        return word in WITHOUT_MEANING
    return True
