"""A finding: what would give a part away, where, why, how sure, and what mends it."""

from dataclasses import dataclass

from ghoststep.music.pattern import Hit

KINDS = ("impossible", "hard", "unlikely", "mechanical", "unclear", "balance")
# What a part is allowed to be, and the findings that it takes back.
STYLES: dict[str, tuple[str, ...]] = {
    "loop": ("same bars",),
    "machine": ("same bars", "equal strokes", "equal backbeats", "even doubles", "no spread", "no memory"),
    "two-drummers": ("three hands", "hands clash", "too fast", "far", "through the crash", "no time for a ghost"),
}


@dataclass(frozen=True)
class Finding:
    """kind: one of KINDS; name: which of its kind; bar (from 1) and tick: where; spot: the place in words; why: a
    sentence; sure: 0 to 1; playable_to_bpm: the tempo up to which it could be played, where it is a matter of tempo;
    mends: phrases of the language that may take it away, best first; key: names it through edits (keys of hits)."""

    kind: str
    name: str
    bar: int
    tick: int
    spot: str
    voices: tuple[str, ...]
    why: str
    sure: float = 1.0
    playable_to_bpm: int | None = None
    mends: tuple[str, ...] = ()
    hits: tuple[int, ...] = ()  # keys of the hits it is about

    @property
    def key(self) -> str:
        """The same after edits that do not touch it; that is how "meant so" is kept."""
        about = ",".join(str(k) for k in self.hits) if self.hits and all(self.hits) else f"bar {self.bar} {self.spot}"
        return f"{self.name}: {about if self.hits else ', '.join(self.voices) or 'all of it'}"

    @property
    def rank(self) -> int:
        """How bad its kind is: 0 for the worst."""
        return KINDS.index(self.kind)


def keys_of(hits: list[Hit]) -> tuple[int, ...]:
    return tuple(h.key for h in hits)
