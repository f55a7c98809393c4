"""What a feel is, in plain words."""

from collections.abc import Mapping
from math import inf

from ghoststep.feel.measure import Measured
from ghoststep.music.feel import SWING_UNITS, Feel
from ghoststep.music.frame import Bars
from ghoststep.music.kit import voice
from ghoststep.music.meter import Meter
from ghoststep.music.player import SpotFeel
from ghoststep.music.spots import name_at

_TOLD_MS = 2.0  # leans below this are not worth words
_LEAST_SPOT_MS = 2.5
_MOST_SPOTS = 4
_UNITS = {8: "eighths", 16: "sixteenths"}
assert _UNITS.keys() == SWING_UNITS.keys()


def swing_line(feel: Feel) -> str:
    """ "Sixteenths swung at 57 %, hat closed at 62 %"."""
    if feel.swing.straight and not feel.swings:
        return "Straight"
    unit = _UNITS[feel.swing.unit].capitalize()
    whole = "Straight" if feel.swing.straight else f"{unit} at {_percent(feel.swing.ratio)}"
    own = [f"{voice(n).label.lower()} at {_percent(s.ratio)}" for n, s in feel.swings.items()]
    return ", ".join([whole, *own])


def lean_line(feel: Feel) -> str:
    """ "Snare 9 ms late, hats 3 ms early": groups whose voices lean alike once, other voices by themselves."""
    groups: dict[str, list[tuple[str, str]]] = {}
    for name, ms in feel.lean_ms.items():
        if abs(ms) >= _TOLD_MS:
            groups.setdefault(_group(name), []).append((voice(name).label.lower(), _side(ms)))
    said = []
    for group, rows in groups.items():
        alike = len({side for _, side in rows}) == 1
        said += [f"{group} {rows[0][1]}"] if alike else [f"{label} {side}" for label, side in rows]
    return ", ".join(said).capitalize() if said else "Everything on the pulse"


def loose_line(feel: Feel) -> str:
    if not feel.loose_ms:
        return "No looseness"
    several = len({voice(name).limb for name in feel.lean_ms}) > 1  # of one limb nothing is shared
    shared = f", of which the limbs share {100 * feel.wander.shared:.0f} %" if several else ""
    return f"Loose by {feel.loose_ms:.1f} ms{shared}"


def spot_lines(feel: Feel, sure_ms: Mapping[tuple[str, int, int], float]) -> list[str]:
    """The spots that stand out most from their voice: "snare on 4: 5 ms later than usual"."""
    far = sorted((s for s in feel.spots if abs(s.late_ms) >= _LEAST_SPOT_MS), key=lambda s: -abs(s.late_ms))
    out = []
    for s in far[:_MOST_SPOTS]:
        side = "later" if s.late_ms > 0 else "earlier"
        error = sure_ms.get((s.voice, s.bar_ticks, s.at_ticks), 0.0)
        known = " (one stroke)" if error == inf else f" (± {error:.1f})" if error else ""
        told = f"{abs(s.late_ms):.0f} ms{known} {side} than its own mean"
        out.append(f"{voice(s.voice).label} on {spot_name(s)}: {told}")
    return out


def spot_name(s: SpotFeel) -> str:
    """What a spot is counted as, in a bar of its length."""
    quarters, rest = divmod(s.bar_ticks, 20160)
    eighths, left = divmod(s.bar_ticks, 10080)
    fits = not rest or not left
    meter = Meter(quarters, 4) if not rest else Meter(eighths, 8) if not left else Meter()
    return name_at(s.at_ticks, Bars(meter)) if fits and s.at_ticks < meter.bar_ticks else f"tick {s.at_ticks}"


def feel_lines(feel: Feel, sure_ms: Mapping[tuple[str, int, int], float] | None = None) -> list[str]:
    """A feel in a few sentences; `sure_ms` has standard errors of spots that were measured."""
    lines = [swing_line(feel), lean_line(feel), *spot_lines(feel, sure_ms or {}), loose_line(feel)]
    wander = feel.wander
    if wander.velocity:
        lines.append(f"Velocities vary by {wander.velocity:.0f}")
    if wander.tempo_percent:
        lines.append(f"The tempo drifts by {wander.tempo_percent:.1f} % from bar to bar")
    if wander.push_percent:
        gains = "gains" if wander.push_percent > 0 else "loses"
        lines.append(f"It {gains} {abs(wander.push_percent):.1f} % into the end of every {wander.phrase_bars} bars")
    touch = feel.touch
    if touch.second != 1:
        lines.append(f"Second strokes of doubles have {100 * touch.second:.0f} % of the first ones")
    if touch.weaker != 1:
        hand = {"L": "left", "R": "right"}[touch.weaker_hand]
        lines.append(f"The {hand} hand has {100 * touch.weaker:.0f} % of the other one")
    return [f"{line}." for line in lines]


def measured_lines(found: Measured) -> list[str]:
    """A measured feel, and how sure it is."""
    lines = feel_lines(found.feel, {(s.voice, s.bar_ticks, s.at_ticks): s.error_ms for s in found.spots})
    for name, count in found.counts.items():
        loose = found.loose_ms.get(name, 0.0)
        lines.append(f"{voice(name).label}: {count} stroke{'s' * (count != 1)}, loose by {loose:.1f} ms.")
    told = "too few strokes fall together to tell" if found.shared is None else f"{found.shared:.2f}"
    lines.append(f"Correlation between limbs: {told}.")
    told = "too few strokes to tell (500 are needed)" if found.exponent is None else f"{found.exponent:.2f}"
    lines.append(f"Exponent of the wander (detrended fluctuation analysis): {told}.")
    return lines


def _percent(ratio: float) -> str:
    return f"{100 * ratio:.1f} %"


def _group(name: str) -> str:
    group = voice(name).group
    return {"hat": "hats", "cymbals": "ride"}.get(group, voice(name).label.lower())


def _side(ms: float) -> str:
    return f"{abs(ms):.0f} ms {'late' if ms > 0 else 'early'}"
