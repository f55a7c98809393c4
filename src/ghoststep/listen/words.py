"""What listening found, in plain words."""

from collections.abc import Sequence

from ghoststep.listen.bars.explain import Explained
from ghoststep.listen.bars.reading import TempoReading, near_readings
from ghoststep.music.kit import voice
from ghoststep.music.spots import name_at
from ghoststep.music.touch import Role

_TOGETHER_MS = 4.0  # leans that differ by less are one
_UNIT_WORDS = {8: "eighths", 16: "sixteenths"}


def tempo_words(explained: Explained) -> str:
    """ "92.1 BPM" or "101 to 97 BPM"."""
    bpm = explained.groove.tempo.bpm
    if len(bpm) == 1:
        return f"{bpm[0]:.1f} BPM"
    return f"{bpm[0]:.1f} to {bpm[-1]:.1f} BPM"


def near_words(readings: Sequence[TempoReading]) -> str:
    """ "12/8 at 204 BPM (39 % against 41 %)": the other ways to count that are nearly as likely; "" where none is."""
    near = near_readings(readings)
    if not near:
        return ""
    first = readings[0]
    told = [f"{r.meter.full_name} at {r.tempo_bpm:.0f} BPM ({_percent(r)} against {_percent(first)})" for r in near]
    return " or ".join(told)


def _percent(reading: TempoReading) -> str:
    return f"{100 * reading.share:.0f} %"


def swing_words(explained: Explained) -> str:
    swing = explained.swing
    if swing.straight:
        return "straight"
    place = (
        "a light swing"
        if swing.ratio < 0.53
        else "between straight and shuffled"
        if swing.ratio <= 0.62
        else "shuffled"
    )
    error = max(100 * explained.swing_error, 0.1)
    return f"{_UNIT_WORDS[swing.unit]} at {100 * swing.ratio:.0f} % ± {error:.1f} ({place})"


def lean_words(explained: Explained) -> str:
    """ "snare 11 ms late, hats 4 ms early"; leans under 2 ms are not worth words."""
    against = "the click" if explained.by_click else "own pulse"
    leans = {_label(name): ms for name, ms in explained.groove.feel.lean_ms.items()}
    if explained.by_click and len(leans) > 1 and max(leans.values()) - min(leans.values()) < _TOGETHER_MS:
        mean = sum(leans.values()) / len(leans)
        if abs(mean) >= 2:
            return f"all {abs(mean):.0f} ms {'late' if mean > 0 else 'early'} against the click"
    said: dict[str, str] = {}
    for name, ms in explained.groove.feel.lean_ms.items():
        if abs(ms) >= 2:
            said[_label(name)] = f"{_label(name)} {abs(ms):.0f} ms {'late' if ms > 0 else 'early'}"
    on = "everything on the click" if explained.by_click else "everything on the pulse"
    return f"{', '.join(said.values())} against {against}" if said else on


def _label(voice_name: str) -> str:
    group = voice(voice_name).group
    return {"hat": "hats", "cymbals": "ride"}.get(group, group)


def looseness_words(explained: Explained) -> str:
    """ "loose by 4 ms (snare), 3 ms (hats)": the spread around each lean, which is another thing than the lean."""
    said: dict[str, float] = {}
    for name, ms in explained.loose_ms.items():
        if voice(name).group in ("kick", "snare", "hat", "cymbals"):
            said.setdefault(_label(name), ms)
    order = [label for label in ("kick", "snare", "hats", "ride") if label in said]
    return "loose by " + ", ".join(f"{said[label]:.0f} ms ({label})" for label in order) if order else ""


def ghost_words(explained: Explained) -> str:
    """ "ghosts on 1a, 2e" by how often they come, at most five spots."""
    pattern = explained.groove.pattern
    spots: dict[str, int] = {}
    for h in pattern.hits:
        if h.role is Role.GHOST and voice(h.voice).group == "snare" and not h.grace:
            name = name_at(h.position_ticks, pattern.frame)
            spots[name] = spots.get(name, 0) + 1
    if not spots:
        return "no ghost strokes"
    often = sorted(spots, key=lambda s: (-spots[s], s))[:5]
    return "ghosts on " + ", ".join(sorted(often))


def summary(explained: Explained) -> str:
    """The groove in one sentence."""
    pattern = explained.groove.pattern
    bars = f"{pattern.bars} bar{'s' if pattern.bars > 1 else ''}"
    parts = [
        f"{tempo_words(explained)}, {pattern.meter.full_name}, {bars}, {swing_words(explained)}",
        lean_words(explained),
        ghost_words(explained),
    ]
    return "; ".join(parts) + "."
