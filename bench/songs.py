"""Made songs with a known form: four variations and fills in sections, as clean hits or to be rendered."""

import random
from dataclasses import dataclass, replace

import numpy as np
from scipy.optimize import linear_sum_assignment

from bench.parts import playable
from ghoststep.music.form import Form, Part, Play, Section
from ghoststep.music.groove import Groove
from ghoststep.music.pattern import Pattern, hit
from ghoststep.music.unrolled import bars_of
from ghoststep.session.form.plain import without_keys
from ghoststep.session.language.forms.words import changed_by, song

STEP = 5040


@dataclass(frozen=True)
class Song:
    """A groove with the letter of each bar and the bars in which sections begin."""

    groove: Groove
    letters: tuple[str, ...]
    starts: tuple[int, ...]


def made(seed: int) -> Song:
    """A song of 24 to 48 bars: two bases, four variations, a fill or two, sections of four or eight bars."""
    rng = random.Random(seed)
    bpm = rng.choice([84, 96, 104, 118])
    one = _bar(rng, bpm, ride=False)
    two = _bar(rng, bpm, ride=True)
    parts = {"A": one, "B": _varied(rng, one), "C": _varied(rng, one), "D": two, "E": _varied(rng, two)}
    parts["F"] = _varied(rng, two)
    parts["X"] = _fill(rng, one)
    bodies = {
        "verse": rng.choice(["A B A C", "A A A B", "A B A B A B A C", "A A B C A A B X"]),
        "chorus": rng.choice(["D E D F", "D D D E", "D E D E D E D X"]),
        "bridge": rng.choice(["C C C X", "F F F X"]),
    }
    order = rng.choice([
        ["verse", "chorus", "verse", "chorus", "chorus"], ["verse", "verse", "chorus", "verse", "chorus"],
        ["verse", "verse", "chorus", "bridge", "chorus", "verse"],
        ["chorus", "verse", "chorus", "bridge", "verse", "chorus"],
    ])  # fmt: skip
    sections = tuple(Section(n, tuple(Play(x) for x in told.split())) for n, told in bodies.items())
    form = Form(tuple(Part(n, p) for n, p in parts.items()), sections, tuple(order))
    head = Groove(one, tempo=playable(random.Random(seed), 1, bpm).tempo)
    letters = tuple(s.part for s in form.stretches())
    starts, bar = [], 1
    for section in form.played:
        starts.append(bar)
        bar += len(section.row)
    groove = song(form, head)
    crashes = [hit((b - 1) * 80640, "crash", 108) for b in starts if rng.random() < 0.7]
    at = {c.position_ticks for c in crashes}
    gone = {
        i for i, h in enumerate(groove.pattern.hits) if h.position_ticks in at and h.voice in ("hat_closed", "ride")
    }
    return Song(groove.changed(pattern=groove.pattern.with_hits(gone, crashes)), letters, tuple(starts))


def _bar(rng: random.Random, bpm: int, *, ride: bool) -> Pattern:
    found = without_keys(bars_of(playable(rng, 1, bpm).pattern, 1, 1))
    time = {"hat_closed": "ride", "ride": "ride"} if ride else {"ride": "hat_closed"}
    return replace(found, hits=tuple(replace(h, voice=time.get(h.voice, h.voice)) for h in found.hits))


def _varied(rng: random.Random, base: Pattern) -> Pattern:
    """One to three changes of kicks, or a moved backbeat."""
    pattern = base
    for _ in range(rng.randint(1, 3)):
        kicks = {h.position_ticks // STEP for h in pattern.hits if h.voice == "kick"}
        step = rng.choice([s for s in range(1, 16) if s not in (4, 12)])
        if step in kicks and len(kicks) > 1:
            pattern = changed_by(pattern, [f"remove kick at step {step + 1}"])
        elif step not in kicks:
            pattern = changed_by(pattern, [f"place kick step {step + 1}"])
    return pattern if pattern != base else _varied(rng, base)


def _fill(rng: random.Random, base: Pattern) -> Pattern:
    """The bar with its second half played on the toms."""
    hits = [h for h in base.hits if h.position_ticks < 8 * STEP]
    for step in range(8, 16):
        if step % 2 == 0 or rng.random() < 0.7:
            hits.append(hit(step * STEP, rng.choice(["snare", "tom_high", "tom_low"]), 96))
    return replace(base, hits=tuple(hits))


def grouped_right(letters: tuple[str, ...], found: list[str]) -> float:
    """The share of bars whose set, matched one to one with the true ones, is right."""
    true, heard = sorted(set(letters)), sorted(set(found))
    table = np.array(
        [[sum(a == t and b == h for a, b in zip(letters, found, strict=True)) for h in heard] for t in true]
    )
    rows, columns = linear_sum_assignment(-table)
    return float(table[rows, columns].sum() / len(letters))
