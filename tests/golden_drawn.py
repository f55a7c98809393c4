"""Grooves and phrases drawn by a seed: many odd combinations, told so that what changes can be read.

Where such a line changes, print what stands behind it (`drawn_groove(n)`, `phrases_on(n)`) before and after the change.
"""

import random
import re
from collections.abc import Callable, Iterator
from pathlib import Path

from ghoststep.craft import ghosts
from ghoststep.feel.ornaments import spelled_out
from ghoststep.feel.perform import perform
from ghoststep.files import textgrid, textgrid_out
from ghoststep.judge import hands, kit_setup
from ghoststep.judge.line import line, names
from ghoststep.music import spots
from ghoststep.music.errors import InputError
from ghoststep.music.feel import Feel, Swing
from ghoststep.music.frame import Bars
from ghoststep.music.groove import Groove
from ghoststep.music.kit import LIMB_LETTERS, STROKE_NAMES, VOICE_NAMES
from ghoststep.music.meter import Meter
from ghoststep.music.ornaments import ORNAMENT_INDEX
from ghoststep.music.pattern import Hit, Pattern
from ghoststep.music.rules import GridPassage, Rules
from ghoststep.music.time import TICKS_PER_QUARTER, TempoMap, step_ticks
from ghoststep.music.touch import Role
from ghoststep.session.document import describe, differences
from ghoststep.session.document.document import Document
from ghoststep.session.edits.commit import opened
from ghoststep.session.language.doing import do
from ghoststep.session.language.edit_context import EditContext

METERS = (Meter(4, 4), Meter(3, 4), Meter(6, 8), Meter(7, 8, (2, 2, 3)), Meter(11, 4, (4, 4, 3)), Meter(5, 16))
GRIDS = (8, 16, 16, 12, 24, 32, 20)
_COMMON = ("kick", "snare", "hat_closed", "kick", "snare", "hat_closed", *VOICE_NAMES)
_LEVELS = ((), (("snare", Role.GHOST, 22),), (("kick", Role.NORMAL, 70), ("ride", Role.ACCENT, 101)))


def drawn_groove(seed: int) -> Groove:
    """A groove with some of everything that a groove can hold."""
    dice = random.Random(seed)
    bars = dice.randint(1, 5)
    changes = {dice.randint(2, bars): dice.choice(METERS)} if bars > 1 and dice.random() < 0.5 else {}
    frame = Bars.of({1: dice.choice(METERS), **changes})
    length = int(frame.start_of(bars + 1))
    beat = [*_time_kept(length)] if dice.random() < 0.6 else []
    found = {h.sort_key: h for h in (*beat, *(_hit(dice, length) for _ in range(dice.randint(4, 30))))}
    rules = Rules(
        dice.choice(_LEVELS), dice.choice(((), ((0, 15120),), ((2, 7000),))), dice.random() < 0.3, dice.random() < 0.7
    )
    start = int(frame.start_of(dice.randint(1, bars)))
    passages = (GridPassage(start, length, dice.choice(GRIDS), dice.choice(((), ("snare",)))),)
    lanes = tuple({dice.choice(VOICE_NAMES): dice.choice(GRIDS) for _ in range(2)}.items())
    pattern = Pattern(
        tuple(found.values()), frame.first, bars, dice.choice(GRIDS), lanes,
        passages if dice.random() < 0.4 else (), rules, frame.changes,
    )  # fmt: skip
    return Groove(pattern, _feel(dice), _tempo(dice, length), f"depot {seed}")


def _time_kept(length: int) -> Iterator[Hit]:
    """Eighths of the hat, backbeats with ghosts around them, and the kick."""
    for n, at in enumerate(range(0, length, TICKS_PER_QUARTER // 2)):
        yield Hit(at, "hat_closed", 60 + n % 3 * 20, _usual(60 + n % 3 * 20))
        if n % 4 == 2:
            yield Hit(at, "snare", 110, Role.ACCENT)
        if n % 4 == 3 and at + TICKS_PER_QUARTER // 4 < length:
            yield Hit(at + TICKS_PER_QUARTER // 4, "snare", 28 + n % 9, Role.GHOST)
        if n % 8 in (0, 5):
            yield Hit(at, "kick", 90, Role.NORMAL)


def _hit(dice: random.Random, length: int) -> Hit:
    step = step_ticks(dice.choice(GRIDS))
    velocity = dice.randint(1, 127)
    role = dice.choice(list(Role)) if dice.random() < 0.3 else _usual(velocity)
    return Hit(
        dice.randrange((length - 1) // step + 1) * step, dice.choice(_COMMON), velocity, role,
        dice.choice(STROKE_NAMES) if dice.random() < 0.2 else "plain",
        dice.choice(LIMB_LETTERS) if dice.random() < 0.3 else "",
        dice.randint(-30, 30) if dice.random() < 0.3 else 0.0,
        ornament=dice.choice(list(ORNAMENT_INDEX)) if dice.random() < 0.2 else "",
        length_ticks=step // 2 if dice.random() < 0.1 else 0,
    )  # fmt: skip


def _usual(velocity: int) -> Role:
    return Role.GHOST if velocity < 46 else Role.NORMAL if velocity < 96 else Role.ACCENT


def _feel(dice: random.Random) -> Feel:
    swing = Swing(dice.choice((8, 16)), dice.choice((0.5, 0.58, 2 / 3)))
    leans = {dice.choice(VOICE_NAMES): dice.randint(-30, 30) for _ in range(dice.randint(0, 3))}
    balance = dice.choice(({}, {"kick": 2.0, "hat": -4.0}))
    return Feel(swing, leans, dice.choice((0.0, 4.0)), dice.randint(0, 9), balance)


def _tempo(dice: random.Random, length: int) -> TempoMap:
    if dice.random() < 0.5:
        return TempoMap.constant(dice.choice((76, 96, 133.5)))
    middle = length // TICKS_PER_QUARTER // 2 * TICKS_PER_QUARTER or TICKS_PER_QUARTER
    return TempoMap.of(((0, 96, dice.choice((96, 120))), (middle, 120, 120)))


def grooves() -> str:
    """What each drawn groove comes to, by what is done with it."""
    lines = []
    for seed in range(90):
        groove = drawn_groove(seed)
        lines.append(f"{seed}: {groove.pattern.bars} bars, {len(groove.pattern.hits)} hits")
        lines += [f"  {name}: {short(_tried(how, groove))}" for name, how in WAYS.items()]
    return "\n".join(lines)


def _tried(how: Callable[[Groove], object], groove: Groove) -> str:
    try:
        return str(how(groove))
    except InputError as error:
        return f"! {error}"


_FIGURE = re.compile(r"-?\d+(?:\.\d+)?")
_WHOLE, _END = 150, 64  # letters of a text that is told whole; of its beginning and its end else


def short(text: str) -> str:
    """A text in a line that can be read: all of it, or its two ends and what its lines and figures come to."""
    line = " ".join(text.split())
    if len(line) <= _WHOLE:
        return line
    figures = [float(x) for x in _FIGURE.findall(line)]
    turned = sum(x * (1 + k % 7) for k, x in enumerate(figures))  # tells another order too
    return f"{line[:_END]} … {line[-_END:]} ({len(figures)} figures: {sum(figures):.2f}, {turned:.2f})"


def rows(pattern: Pattern) -> list[str]:
    """All that its hits say, a line each."""
    return [
        f"{h.position_ticks} {h.voice} {h.velocity} {h.role.value} {h.stroke} {h.limb} {h.offset_ms:.3f} {h.grace}"
        f" {h.ornament} {h.length_ticks}"
        for h in pattern.hits
    ]


def _played(groove: Groove) -> object:
    played = perform(groove)
    rows = zip(played.onset_s, played.voice, played.velocity, played.stroke, played.stops_s, strict=True)
    return [f"{played.length_s:.4f}", *(f"{t:.4f} {v} {x} {k} {stop:.3f}" for t, v, x, k, stop in rows)]


def _text(groove: Groove) -> object:
    text = textgrid_out.grid_text(groove)
    return text, rows(textgrid.parse_grid(text).pattern)


def _hands(groove: Groove) -> object:
    told = [(m.tick, m.letters) for m in line(groove)]
    return [sorted(hands.sticking(groove, way).items()) for way in kit_setup.WAYS], told, names(groove)


def _ghosts(groove: Groove) -> object:
    more = [[str(p.name), *rows(Pattern(p.hits, bars=4096))] for p in ghosts.proposals(groove)]
    soft = tuple(h for h in groove.pattern.hits if h.role is Role.GHOST)
    thin = [[h.position_ticks for h in ghosts.thinned(groove, soft, share)] for share in (20, 60)]
    return more, thin, [h.sort_key for h in ghosts.filled(groove, "snare", ("hat_closed",))]


def _told(groove: Groove) -> object:
    other = drawn_groove(int(groove.name.split()[1]) + 1000)
    return describe.summary_line(groove), describe.alike_bars(groove.pattern), differences.words(groove, other)


def _places(groove: Groove) -> object:
    pattern, frame = groove.pattern, groove.pattern.frame
    found = [spots.name_at(t, frame) for t in range(0, pattern.length_ticks, 3780)]
    bent = [f"{groove.feel.swing.bend_one(t, frame):.3f}" for t in range(0, pattern.length_ticks, 1260)]
    return found, bent, [pattern.stretches(v) for v in VOICE_NAMES], [frame.group_at(t) for t in range(0, 200000, 5000)]


WAYS: dict[str, Callable[[Groove], object]] = {
    "played": _played,
    "spelled": lambda g: rows(spelled_out(g).pattern),
    "text": _text,
    "hands": _hands,
    "ghosts": _ghosts,
    "told": _told,
    "places": _places,
}

# Phrases with holes, a line each: a name in braces is filled from `_WORDS` or `_FIGURES`.
TEMPLATES = (Path(__file__).parent / "golden" / "templates.txt").read_text().splitlines()
_WORDS: dict[str, tuple[str, ...]] = {
    "target": (
        "everything", "snare", "kick", "hat", "snare ghosts", "accents", "hat at every &", "{voice} at {spot}",
        "{voice} bars {bars}", "snare kick", "softer 60", "louder 60", "{voice}", "snare at 2, 4", "cymbals", "toms",
        "limb R", "hat bars {bars} at 2&", "last", "stroke plain",
    ),
    "spot": ("1", "1e", "1&", "2", "2a", "3&", "4", "4a", "2 triplet 2", "1 2/5", "3e", "9"),
    "voice": ("kick", "snare", "hat_closed", "hat_open", "crash", "tom_low", "ride", "cross_stick", "hat_pedal"),
    "role": ("ghost", "normal", "accent"),
    "length": ("1/8", "1/16", "1 step", "-1 step", "1 beat", "1/12", "-1/4", "1 bar"),
    "bars": ("1", "2", "1-2", "2-3", "3"),
    "meter": ("7/8 2+2+3", "4/4", "3/4", "6/8"),
    "way": ("right-handed", "left-handed", "open-handed"),
    "ornament": ("flam", "drag", "ruff", "double", "roll5", "roll7", "roll", "press", "none"),
    "balance": ("level", "kick-led", "snare-led", "hat-led", "next", "played"),
    "shape": ("beat", "off-beat", "backbeat", "groups", "every 3", "1,3,4"),
    "grid": ("triplets", "16", "32", "12", "20"),
    "unit": ("8ths", "16ths"),
    "limb": ("l", "r", "k"),
}  # fmt: skip
_FIGURES = {
    "n": (1, 127), "small": (1, 7), "ms": (-40, 40), "share": (50, 75), "percent": (60, 150), "tempo": (70, 160),
    "bar": (1, 3),
}  # fmt: skip


def _said(dice: random.Random, text: str) -> str:
    while "{" in text:
        hole = text.split("{")[1].split("}")[0]
        value = str(dice.randint(*_FIGURES[hole])) if hole in _FIGURES else dice.choice(_WORDS[hole])
        text = text.replace(f"{{{hole}}}", value, 1)
    return text


def phrases_on(seed: int) -> Iterator[tuple[str, str, EditContext]]:
    """Phrases one after another on a drawn groove: each with what it says and where it leads."""
    dice = random.Random(seed)
    context = EditContext(opened(Document("depot", drawn_groove(seed))))
    for _ in range(22):
        phrase = _said(dice, dice.choice(TEMPLATES))
        try:
            words, context = do(context, phrase)
        except InputError as error:
            words = f"! {error}"
        yield phrase, words, context


def phrases(state: Callable[[EditContext], list[str]]) -> str:
    """What drawn phrases say, and what of the state is gone and new after each."""
    lines = []
    for seed in range(90):
        lines.append(f"groove {seed}")
        before = state(EditContext(Document("depot", drawn_groove(seed))))
        for phrase, words, context in phrases_on(seed):
            after = state(context)
            lines.append(f"{phrase} -> {words}")
            lines += [f"  - {short(' | '.join(gone))}" for gone in [[x for x in before if x not in after]] if gone]
            lines += [f"  + {short(' | '.join(new))}" for new in [[x for x in after if x not in before]] if new]
            before = after
    return "\n".join(lines)
