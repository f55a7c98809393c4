"""Mends: phrases that take a finding away, tried before they are offered, and parts made playable by them."""

from collections.abc import Iterable, Iterator
from dataclasses import replace

from ghoststep.judge.check import Terms, checked, impossible, played_by
from ghoststep.judge.finding import Finding
from ghoststep.judge.words import at_words
from ghoststep.music.errors import InputError
from ghoststep.music.groove import Groove
from ghoststep.music.time import TempoMap, checked_tempo_bpm
from ghoststep.session.document.document import Document
from ghoststep.session.language.doing import do
from ghoststep.session.language.edit_context import EditContext

_MOST_STEPS = 200
_MOST_LEFT_OUT = 12  # strokes that no mend helps: of a part with more of them another one is meant
_OF_TEMPO = ("too fast", "far")


def mended(context: EditContext, phrases: str) -> EditContext:
    """The stand with a mend taken: one phrase, or several between semicolons.

    Raises
    ------
    InputError
        Where it cannot be done.
    """
    for phrase in phrases.split(";"):
        _, context = do(context, phrase.strip())
    return context


def mends_of(context: EditContext, finding: Finding, terms: Terms, meant: Iterable[str] = ()) -> list[str]:
    """The phrases that take a finding away and bring no worse one, each tried on the document; none may be left."""
    return list(_mends(context, finding, terms, frozenset(meant)))


def _mends(context: EditContext, finding: Finding, terms: Terms, quiet: frozenset[str]) -> Iterator[str]:
    before = ranks(checked(context.document.groove, terms, quiet).findings)
    return (phrase for phrase in finding.mends if _helps(context, phrase, finding, before, terms, quiet))


def _helps(
    context: EditContext, phrase: str, finding: Finding, before: dict[int, int], terms: Terms, quiet: frozenset[str]
) -> bool:
    try:
        changed = mended(context, phrase).document
    except InputError:  # what cannot be done is no mend
        return False
    if changed.judged.setup != context.document.judged.setup:  # another pedal is a mend too
        terms = _with_pedals(terms, changed)
    after = checked(changed.groove, terms, quiet).findings
    if any(same(f, finding) for f in after):
        return False
    left = ranks(after)
    worse = any(left.get(rank, 0) > before.get(rank, 0) for rank in range(finding.rank))
    return not worse and left.get(finding.rank, 0) < before.get(finding.rank, 0)


def same(one: Finding, other: Finding) -> bool:
    """Whether it is the same fault at the same place, whatever hits are left there."""
    return _place(one) == _place(other)


def _place(f: Finding) -> tuple[object, ...]:
    return f.name, f.bar, f.spot if f.hits else f.voices


def ranks(findings: Iterable[Finding]) -> dict[int, int]:
    """How many findings of each kind there are, by rank."""
    out: dict[int, int] = {}
    for f in findings:
        out[f.rank] = out.get(f.rank, 0) + 1
    return out


def made_playable(context: EditContext, terms: Terms, bpm: float | None = None) -> tuple[list[str], EditContext]:
    """The phrases that make a part playable, and the context with them: other hands before strokes left out.

    Parameters
    ----------
    bpm
        The tempo it has to be played at, else its own; the part keeps its own tempo.

    Raises
    ------
    InputError
        Where strokes that are too fast are left and no phrase helps.
    """
    own = context.document.groove.tempo
    if bpm is not None:
        context = replace(context, document=context.document.with_groove(tempo=_at(context.document.groove, bpm)))
    taken: list[str] = []
    left_out = 0
    for _ in range(_MOST_STEPS):
        found = [f for f in checked(context.document.groove, terms).findings if f.kind == "impossible"]
        if not found:
            break
        phrase = next((p for f in found if (p := _first_mend(context, f, terms))), None)
        if phrase is None and left_out < _MOST_LEFT_OUT:
            phrase, left_out = _softest_out(context, found[0], terms), left_out + 1
        if phrase is None:
            f = found[0]
            raise InputError(f"Bar {f.bar} {f.spot} cannot be made playable by small changes: {f.why}")
        taken.append(phrase)
        context = mended(context, phrase)
        terms = _with_pedals(terms, context.document) if phrase.startswith("pedals") else terms
    else:
        raise InputError(f"More than {_MOST_STEPS} changes are needed to make this playable: slow it down first.")
    return taken, replace(context, document=context.document.with_groove(tempo=own))


def _first_mend(context: EditContext, finding: Finding, terms: Terms) -> str | None:
    """The first phrase that helps without slowing down."""
    kept = replace(finding, mends=tuple(p for p in finding.mends if not p.startswith("tempo ")))
    return next(_mends(context, kept, terms, frozenset()), None)


def _softest_out(context: EditContext, finding: Finding, terms: Terms) -> str | None:
    """Where no mend takes a finding away: its stroke left out that leaves least to mend, of like ones the softest.

    With every one of these there are fewer strokes, so that it comes to an end.
    """
    groove, about = context.document.groove, set(finding.hits)
    played = played_by(groove, terms)
    hits = sorted((h for h in groove.pattern.hits if h.key in about), key=lambda h: h.velocity)
    phrases = [f"remove {h.voice} {at_words(played, h.position_ticks)}" for h in hits]
    return min(phrases, key=lambda p: impossible(mended(context, p).document.groove, terms), default=None)


def _at(groove: Groove, bpm: float) -> TempoMap:
    """The tempo with its main tempo moved to another, and what changes along the way by as much."""
    share = checked_tempo_bpm(bpm) / groove.tempo.main_bpm
    begin, end = (tuple(checked_tempo_bpm(b * share) for b in row) for row in (groove.tempo.bpm, groove.tempo.to_bpm))
    return TempoMap(groove.tempo.ticks, begin, end)


def _with_pedals(terms: Terms, document: Document) -> Terms:
    """The terms with as many kick pedals as a document's kit has; drums stand where they stood."""
    setup = document.judged.kit
    return replace(terms, setup=replace(terms.setup, name=setup.name, kick_pedals=setup.kick_pedals))
