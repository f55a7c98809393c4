"""The rudiments as data: sticking, rhythm, accents and what leads to each stroke.

Written out from the definitions of the 40 international drum rudiments (Percussive Arts Society, 1984) and the usual
paradiddle inversions. Each stroke is a word: `f` flam, `d` drag or `u` ruff, the hand, `*` an accent, and after `:` how
long it lasts in the rudiment's own unit (1 where nothing is said). "RRLL R*:4" is so a five-stroke roll. A stroke's
length has to fit the next one's place; the last one only needs to be at least as long as `landing`.
"""

import re
from dataclasses import dataclass, replace
from functools import cache
from itertools import accumulate

from ghoststep.music.kit import OTHER_HAND

_WORD = re.compile(r"([fdu]?)([RLK])(\*?)(?::([\d.]+))?")
_GRACES = {"": 0, "f": 1, "d": 2, "u": 3}


@dataclass(frozen=True)
class Rudiment:
    """letters: one a stroke; starts: where each stroke stands, in units; accents and graces by stroke; landing: how
    long the last stroke lasts at least, in units.

    `accented`: only told where exactly its accents are played, since without them its strokes are common ones.
    """

    name: str
    letters: str
    starts: tuple[float, ...]
    accents: tuple[bool, ...]
    graces: tuple[int, ...]
    landing: float
    accented: bool = False

    def mirrored(self) -> "Rudiment":
        """The same led by the other hand."""
        return replace(self, letters="".join(OTHER_HAND.get(x, x) for x in self.letters))


def _read(name: str, text: str, accented: str = "") -> Rudiment:
    words = _WORD.findall(text.replace(" ", ""))
    lengths = [float(w[3] or 1) for w in words]
    starts = tuple(accumulate(lengths[:-1], initial=0.0))
    return Rudiment(
        name,
        "".join(w[1] for w in words),
        starts,
        tuple(bool(w[2]) for w in words),
        tuple(_GRACES[w[0]] for w in words),
        lengths[-1],
        bool(accented),
    )


# Rolls of an odd number of strokes are told from doubles by the single stroke they land on.
_TABLE: tuple[tuple[str, str] | tuple[str, str, str], ...] = (
    ("single-stroke roll", "RLRLRLRL"),
    ("single-stroke four", "R L R L*:3", "accented"),
    ("single-stroke seven", "RLRLRL R*:6"),
    ("triple-stroke roll", "RRRLLL"),
    ("double-stroke roll", "RRLLRRLL"),
    ("five-stroke roll", "RRLL R*:2"),
    ("six-stroke roll", "R*:2 LLRR L*:2"),
    ("six-stroke roll", "R* LLRR L*", "accented"),
    ("seven-stroke roll", "RRLLRR L*:2"),
    ("nine-stroke roll", "RRLLRRLL R*:2"),
    ("ten-stroke roll", "RRLLRRLL R*:2 L*:2"),
    ("eleven-stroke roll", "RRLLRRLLRR L*:2"),
    ("thirteen-stroke roll", "RRLLRRLLRRLL R*:2"),
    ("fifteen-stroke roll", "RRLLRRLLRRLLRR L*:2"),
    ("seventeen-stroke roll", "RRLLRRLLRRLLRRLL R*:2"),
    ("paradiddle", "R*LRR L*RLL"),
    ("paradiddle", "R*LRR"),
    ("inverted paradiddle", "R*LLR L*RRL"),
    ("reversed paradiddle", "R*RLR L*LRL"),
    ("double paradiddle", "R*LRLRR L*RLRLL"),
    ("double paradiddle", "R*LRLRR"),
    ("triple paradiddle", "R*LRLRLRR L*RLRLRLL"),
    ("triple paradiddle", "R*LRLRLRR"),
    ("paradiddle-diddle", "R*LRRLL R*LRRLL"),
    ("paradiddle-diddle", "R*LRRLL"),
    ("paradiddle", "RLKK"),
    ("inverted paradiddle", "LKKR"),
    ("reversed paradiddle", "KKRL"),
    ("flam accent", "fR*LR fL*RL"),
    ("flam accent", "fR*LR"),
    ("flam tap", "fR*R fL*L"),
    ("flamacue", "fR L*RL fR:2"),
    ("flam paradiddle", "fR*LRR fL*RLL"),
    ("flam paradiddle", "fR*LRR"),
    ("flammed mill", "fR*RLR fL*LRL"),
    ("flammed mill", "fR*RLR"),
    ("flam paradiddle-diddle", "fR*LRRLL"),
    ("pataflafla", "fR*LR fL*"),
    ("swiss triplet", "fR*RL fR*RL"),
    ("swiss triplet", "fR*RL"),
    ("inverted flam tap", "fR*L fL*R"),
    ("flam paradiddle-diddle", "fR*LRRLL fL*RLLRR"),
    ("flam drag", "fR*:2 LL R:2"),
    ("flam", "fR fL"),
    ("drag", "dR dL"),
    ("drag tap", "dR L* dL R*"),
    ("drag tap", "dR L*"),
    ("double drag tap", "dR dR L* dL dL R*"),
    ("double drag tap", "dR dR L*"),
    ("lesson twenty-five", "dR L R*:2 dR L R*:2"),
    ("lesson twenty-five", "dR L R*:2"),
    ("dragadiddle", "R*R L:2 R:2 R:2"),
    ("drag paradiddle no. 1", "R*:2 dR L R R"),
    ("drag paradiddle no. 2", "R*:2 dR:2 dR L R R"),
    ("ratamacue", "dR L R L*:3 dL R L R*:3"),
    ("ratamacue", "dR L R L*:3"),
    ("double ratamacue", "dR:3 dR L R L*:3 dL:3 dL R L R*:3"),
    ("double ratamacue", "dR:3 dR L R L*:3"),
    ("triple ratamacue", "dR:3 dR:3 dR L R L*:3 dL:3 dL:3 dL R L R*:3"),
    ("triple ratamacue", "dR:3 dR:3 dR L R L*:3"),
    ("herta", "R L R:2 L:2 R L R:2 L:2"),
    ("herta", "R* L R:2 L:2", "accented"),
)


@cache
def rudiments() -> tuple[Rudiment, ...]:
    """Every rudiment in both hands, longest first."""
    both = [r for row in _TABLE for r in (_read(*row), _read(*row).mirrored())]
    return tuple(sorted(both, key=lambda r: -len(r.letters)))


@cache
def by_beginning() -> dict[str, tuple[Rudiment, ...]]:
    """The rudiments by their first two letters, longest first."""
    out: dict[str, tuple[Rudiment, ...]] = {}
    for r in rudiments():
        out[r.letters[:2]] = (*out.get(r.letters[:2], ()), r)
    return out


# What single strokes with grace notes, and strokes of a kind, are called where no longer name holds them.
GRACE_NAMES = {1: "flam", 2: "drag", 3: "ruff"}
