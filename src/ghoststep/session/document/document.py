"""What a user has open: a groove, the recording it came from, and what listening found in it."""

from dataclasses import dataclass, field, replace
from typing import TYPE_CHECKING, Any

import numpy as np
from numpy.typing import NDArray

from ghoststep.music.form import Form
from ghoststep.music.groove import Groove
from ghoststep.music.pattern import FIRST_OWN_KEY
from ghoststep.music.performance import Performance
from ghoststep.session.document.judged import Judged

if TYPE_CHECKING:  # a document that nothing was heard in needs no ears
    from ghoststep.listen.bars.explain import Explained
    from ghoststep.listen.bars.reading import Hints
    from ghoststep.listen.corrections import Corrections
    from ghoststep.listen.strokes.perhaps import Perhaps


@dataclass(frozen=True, eq=False)
class Recording:
    """A sound as it was given: its file's bytes, so that saving loses nothing, and its samples (n, channels).

    Without the bytes (b"") it is only for hearing, and cannot be saved.
    """

    name: str
    data: bytes
    samples: NDArray[np.float32]
    rate: int

    @property
    def length_s(self) -> float:
        return len(self.samples) / self.rate


def _no_hints() -> "Hints":
    from ghoststep.listen.bars.reading import Hints

    return Hints()


def _no_corrections() -> "Corrections":
    from ghoststep.listen.corrections import Corrections

    return Corrections()


@dataclass(frozen=True, eq=False)
class Listening:
    """What was heard in the recording, what the user said about it, and the groove that follows from both.

    `confidence[i]` belongs to hit i of the explained groove's pattern; `heard` and `sure` are as they were heard,
    before any correction. `closed_s` pairs the onset of an open hat with the moment it is closed again; `perhaps` are
    strokes at odds too low to be played.
    """

    explained: "Explained"
    confidence: tuple[float, ...]
    remarks: tuple[str, ...]
    heard: Performance
    sure: tuple[float, ...]
    hints: "Hints" = field(default_factory=_no_hints)
    corrections: "Corrections" = field(default_factory=_no_corrections)
    closed_s: tuple[tuple[float, float], ...] = ()
    perhaps: "tuple[Perhaps, ...]" = ()


@dataclass(frozen=True)
class Snapshot:
    """A version that was kept under a name, with its form where it had one."""

    name: str
    groove: Groove
    form: Form | None = None


@dataclass(frozen=True)
class Verdict:
    """What a blind comparison chose: among which versions, and when (ISO 8601)."""

    chosen: str
    among: tuple[str, ...]
    when: str


@dataclass(frozen=True)
class Document:
    """Everything one project file holds. Values are shared between versions, so history is cheap."""

    name: str = "Untitled"
    groove: Groove = field(default_factory=Groove)
    recording: Recording | None = None
    listening: Listening | None = None
    snapshots: tuple[Snapshot, ...] = ()
    verdicts: tuple[Verdict, ...] = ()
    next_key: int = FIRST_OWN_KEY  # the next hit that is put in gets it
    judged: Judged = field(default_factory=Judged)
    form: Form | None = None  # the groove is what it comes to, unrolled
    warnings: tuple[str, ...] = field(default=(), compare=False)  # what was wrong in the file it was read from
    kit: str = ""  # what plays it: a name or a place; "" is the kit that plays where none is named
    only_here: bool = False  # an edit makes an exception of its bar, instead of changing the part wherever it is played

    def with_groove(self, **fields: Any) -> "Document":
        """A copy whose groove, or the pattern in it, has other fields."""
        return replace(self, groove=self.groove.changed(**fields))
