"""Cases kept back for measuring: `python -m tools.training.kept_back OUT_DIR --bank CACHE`.

Grooves of several bars that repeat and vary as grooves do, in several meters and feels, on kits that were never
trained on. Writes NAME.flac and NAME.json (the truth in the analysis format) for the scorer.
"""

import argparse
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path
from typing import cast

import msgspec
import numpy as np
import soundfile
from numpy.typing import NDArray

from ghoststep.feel.perform import perform
from ghoststep.files.safe import write_text
from ghoststep.music.feel import Feel, Swing
from ghoststep.music.groove import Groove
from ghoststep.music.kit import VOICES
from ghoststep.music.meter import Meter
from ghoststep.music.pattern import Hit, Pattern
from ghoststep.music.time import TICKS_PER_QUARTER, TempoMap
from ghoststep.music.touch import Role, role_of
from tools.make_demo import truth
from tools.training.freepats import freepats_kit
from tools.training.kits import (
    KEPT_BACK,
    OTHERS,
    RATE,
    KitSamples,
    layered_apart,
    mixed_kit,
    random_kit,
    sampled_kit,
)
from tools.training.material import judged_clip
from tools.training.playing import Strike
from tools.training.single_strokes import strokes_kit

METERS = (Meter(4, 4),) * 12 + (
    Meter(3, 4), Meter(6, 8), Meter(12, 8), Meter(5, 4), Meter(7, 8, (2, 2, 3)), Meter(7, 8, (3, 2, 2)),
    Meter(7, 4), Meter(11, 4, (4, 4, 3)),
)  # fmt: skip


def random_groove(rng: np.random.Generator, *, ghosts: float = 0.0) -> Groove:
    """A two-bar idea, repeated with small changes and maybe a fill at the end; `ghosts` puts more of them in."""
    meter = METERS[int(rng.integers(len(METERS)))]
    compound = meter.denominator == 8 and meter.numerator % 3 == 0
    bpm = float(rng.uniform(65, 175)) * (1.3 if compound else 1)
    fine = TICKS_PER_QUARTER // 4
    idea = [_bar(meter, compound, bpm, rng, ghosts) for _ in range(2)]
    ride = _ride_style(rng)
    bars = 4
    hits: dict[tuple[int, str], Hit] = {}
    for number in range(bars):
        cells = list(idea[number % 2]) + ride(meter, compound, rng)
        if number == bars - 1 and rng.random() < 0.4:
            cells = [c for c in cells if c[0] < meter.bar_ticks * 0.6] + _fill(meter, fine, rng)
        if number == 0 and rng.random() < 0.12:  # the recording begins in the middle of a bar, or beat 1 is silent
            late = meter.bar_ticks // 2 if rng.random() < 0.5 else 1
            cells = [c for c in cells if c[0] >= late]
        elif number == 0 and rng.random() < 0.25:
            cells = [c for c in cells if c[0] or c[1] not in ("ride", "hat_closed")] + [(0, "crash", 110)]
        for at, voice, velocity in cells:
            loud = int(np.clip(velocity + rng.normal(0, 8), 12, 125))
            position = number * meter.bar_ticks + at
            role = Role.GHOST if velocity < 45 else role_of(max(loud, 46))
            hits[(position, voice)] = Hit(position, voice, min(loud, 45) if role is Role.GHOST else loud, role)
    played = list(hits.values())
    if rng.random() < 0.25:  # some strokes are flammed
        for h in [h for h in played if h.voice == "snare" and h.velocity > 80 and rng.random() < 0.3]:
            lead_ms = float(rng.uniform(18, 40))
            played.append(
                Hit(h.position_ticks, h.voice, int(rng.integers(20, 45)), Role.GHOST, offset_ms=-lead_ms, grace=True)
            )
    swing = Swing()
    if rng.random() < 0.35 and not compound and meter.denominator == 4:
        # Eighths only swing where nothing is played between them.
        even = any(at % (TICKS_PER_QUARTER // 2) for at, _ in hits)
        if not even or bpm < 125:  # nobody swings sixteenths that fast
            swing = Swing(16 if even else 8, float(rng.uniform(0.53, 0.67)))
    lean = {"snare": float(rng.normal(0, 6)), "hat": float(rng.normal(0, 4)), "ride": float(rng.normal(0, 4))}
    feel = Feel(swing, lean, float(rng.uniform(1, 6)), int(rng.integers(1000)))
    return Groove(Pattern(tuple(played), meter, bars), feel, TempoMap.constant(round(bpm, 1)))


Cells = list[tuple[int, str, int]]


def _bar(meter: Meter, compound: bool, bpm: float, rng: np.random.Generator, ghosts: float) -> Cells:
    """Kick, snare and ghosts of one bar."""
    eighth = TICKS_PER_QUARTER // 2
    pulses = list(meter.group_starts)
    back = pulses[1::2] if len(pulses) > 1 else [pulses[0]]
    if meter.numerator == 3:
        back = pulses[1:] if rng.random() < 0.5 else pulses[2:]
    main = "cross_stick" if rng.random() < 0.15 else "snare"
    cells: Cells = [(t, main, 100) for t in back] + [(0, "kick", 104)]
    fine = eighth // 2 if bpm < 130 else eighth
    for t in range(0, meter.bar_ticks, fine):
        if t not in back and t and rng.random() < (0.22 if t % eighth == 0 else 0.10):
            cells.append((t, "kick", 92))
    if main == "snare" and rng.random() < (0.9 if ghosts else 0.65):
        chance = rng.uniform(0.08, 0.3) + ghosts
        cells += [
            (t, "snare", 30) for t in range(fine, meter.bar_ticks, fine) if t not in pulses and rng.random() < chance
        ]
    return cells


def _ride_style(rng: np.random.Generator) -> Callable[[Meter, bool, np.random.Generator], Cells]:
    """What the right hand does throughout."""
    top = str(rng.choice(["hat_closed", "hat_closed", "hat_closed", "hat_open", "ride"]))
    sixteenths = rng.random() < 0.25 and top == "hat_closed"
    opens = rng.random() < 0.5 and top == "hat_closed"
    accents = int(rng.integers(0, 30))
    pedal = top == "ride" and rng.random() < 0.7
    place = int(rng.integers(1, 4))

    def cells(meter: Meter, compound: bool, rng: np.random.Generator) -> Cells:
        step = TICKS_PER_QUARTER // (4 if sixteenths else 2)
        out: Cells = []
        for t in range(0, meter.bar_ticks, step):
            on_pulse = t in meter.group_starts
            out.append((t, top, 84 if on_pulse else 84 - accents))
        if opens:
            at = meter.bar_ticks - place * TICKS_PER_QUARTER // 2
            out = [c for c in out if c[0] != at] + [(at, "hat_open", 88)]
        if pedal:
            out += [(t, "hat_pedal", 60) for t in meter.group_starts[1::2]]
        return out

    return cells


def _fill(meter: Meter, fine: int, rng: np.random.Generator) -> Cells:
    start = int(meter.bar_ticks * 0.6) // (4 * fine) * 4 * fine + 2 * fine
    toms = ["snare", "tom_high", "tom_mid", "tom_low"]
    spots = [t for t in range(start, meter.bar_ticks, fine) if rng.random() < 0.75]
    return [(t, toms[min(3, i * 4 // max(len(spots), 1))], 92) for i, t in enumerate(spots)]


def make_case(
    number: int, bank: list[KitSamples], rng: np.random.Generator, *, plain: bool = False, ghosts: float = 0.0
) -> tuple[str, NDArray[np.float32], dict[str, object]]:
    """One case: name, sound and truth; each hit says how far it stands over all else in its best octave (`over_db`),
    and how loud it is alone (`level_db`).

    With more ghosts than usual come kits whose layers differ in more than level.
    """
    groove = random_groove(rng, ghosts=ghosts)
    sampled = plain or number % 2 == 0
    kit = bank[number % len(bank)] if plain else mixed_kit(bank, rng) if sampled else random_kit(rng)
    if ghosts and not plain:
        kit = layered_apart(kit, rng)
    groove = _only(groove, kit)
    played = perform(groove).ordered()
    lead_s = float(rng.uniform(0.1, 0.5))
    strikes = [
        Strike(float(t) + lead_s, VOICES[v].name, int(x))
        for t, v, x in zip(played.onset_s, played.voice, played.velocity, strict=True)
    ]
    clip = judged_clip(strikes, kit, rng, length_s=lead_s + groove.length_s + 0.8, plain=plain)
    name = f"case-{number:02}-{'sampled' if sampled else 'synthesised'}"
    told = truth(replace(groove, name=name), lead_s)
    judged = {
        (round(s.time_s, 5), s.voice): decibels
        for s, *decibels in zip(strikes, clip.over_db, clip.level_db, strict=True)
    }
    for hit in cast(list[dict[str, object]], told["hits"]):
        over_db, level_db = judged[cast(float, hit["time_s"]), cast(str, hit["voice"])]
        hit["over_db"] = round(float(np.clip(over_db, -90, 90)), 1)
        hit["level_db"] = round(float(level_db), 2)
    return name, clip.sound, told


def _only(groove: Groove, kit: KitSamples) -> Groove:
    """The groove without the voices that a kit lacks."""
    pattern = groove.pattern
    return replace(groove, pattern=replace(pattern, hits=tuple(h for h in pattern.hits if h.voice in kit)))


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("out", type=Path)
    parser.add_argument("--bank", type=Path, default=Path("build/training/bank"))
    parser.add_argument("--cases", type=int, default=40)
    parser.add_argument("--seed", type=int, default=9000)
    parser.add_argument("--ghosts", type=float, default=0.0, help="so much more of them, as a chance for each spot")
    parser.add_argument("--strokes", type=Path, help="a folder of single recorded strokes to be the kit")
    parser.add_argument(
        "--freepats", type=Path, help="the drum patches of freepats, which with a small bank are the kits"
    )
    parser.add_argument("--plain", action="store_true", help="the foreign kits as they are, plainly recorded")
    options = parser.parse_args()
    options.out.mkdir(parents=True, exist_ok=True)
    if options.strokes:
        bank = [strokes_kit(options.strokes)]
    elif options.freepats:
        bank = [sampled_kit(*name, cache=options.bank) for name in OTHERS]
        bank += [freepats_kit(options.freepats, key) for key in (0, 1)]
    else:
        bank = [sampled_kit(*name, cache=options.bank) for name in KEPT_BACK]
    for number in range(options.cases):
        rng = np.random.default_rng([options.seed, number])
        plain = options.plain or options.strokes is not None or options.freepats is not None
        name, sound, told = make_case(number, bank, rng, plain=plain, ghosts=options.ghosts)
        soundfile.write(options.out / f"{name}.flac", np.clip(sound, -1, 1), RATE)
        write_text(
            options.out / f"{name}.json", msgspec.json.format(msgspec.json.encode(told), indent=1).decode() + "\n"
        )


if __name__ == "__main__":
    main()
