"""Checking a document: mends that are tried before they are offered, and the report as JSON."""

from collections.abc import Callable, Iterable
from dataclasses import replace
from typing import Any

from ghoststep.judge.check import Report, Terms, checked
from ghoststep.judge.finding import Finding
from ghoststep.judge.likeness import Likeness
from ghoststep.music.errors import Cancelled, InputError
from ghoststep.music.groove import Groove
from ghoststep.session.document.document import Document
from ghoststep.session.edits.door import opened
from ghoststep.session.language.stand import Stand
from ghoststep.session.language.verb import do

TRIED = 60  # findings whose mends are tried for a file: each is a check of its own


def mended(stand: Stand, phrases: str) -> Stand:
    """The stand with a mend taken: one phrase, or several between semicolons."""
    for phrase in phrases.split(";"):
        _, stand = do(stand, phrase.strip())
    return stand


def mends_of(stand: Stand, finding: Finding, terms: Terms, meant: Iterable[str] = ()) -> list[str]:
    """The phrases that take a finding away and bring no worse one, each tried on the document; none may be left."""
    quiet = frozenset(meant)
    before = _ranks(checked(stand.document.groove, terms, quiet).findings)
    return [phrase for phrase in finding.mends if _helps(stand, phrase, finding, before, terms, quiet)]


def _helps(
    stand: Stand, phrase: str, finding: Finding, before: dict[int, int], terms: Terms, quiet: frozenset[str]
) -> bool:
    try:
        after = checked(mended(stand, phrase).document.groove, terms, quiet).findings
    except InputError:  # what cannot be done is no mend
        return False
    if any(_same(f, finding) for f in after):
        return False
    ranks = _ranks(after)
    worst = finding.rank
    return all(ranks.get(rank, 0) <= before.get(rank, 0) for rank in range(worst + 1)) and (
        ranks.get(worst, 0) < before.get(worst, 0)
    )


def _same(one: Finding, other: Finding) -> bool:
    """Whether it is the same fault at the same place, whatever hits are left there."""
    return _place(one) == _place(other)


def _place(f: Finding) -> tuple[object, ...]:
    return f.name, f.bar, f.spot if f.hits else f.voices


def _ranks(findings: Iterable[Finding]) -> dict[int, int]:
    """How many findings of each kind there are, by rank."""
    out: dict[int, int] = {}
    for f in findings:
        out[f.rank] = out.get(f.rank, 0) + 1
    return out


def with_mends(
    groove: Groove, report: Report, terms: Terms, stopped: Callable[[], bool] = lambda: False
) -> tuple[list[Finding], int]:
    """The findings with only the mends that help, and how many at the end were not tried, since there are so many.

    Raises
    ------
    Cancelled
        When `stopped` says so.
    """
    stand = Stand(opened(Document("check", groove)))
    keyed = checked(stand.document.groove, terms).findings
    out = []
    for number, finding in enumerate(report.findings):
        if stopped():
            raise Cancelled("The check was stopped.")
        tried = number < TRIED
        found = next((f for f in keyed if _same(f, finding)), finding)
        mends = tuple(mends_of(stand, found, terms)) if tried else ()
        out.append(replace(finding, mends=mends))
    return out, max(len(out) - TRIED, 0)


# -- the report as JSON -------------------------------------------------------------------------------------------


def as_json(report: Report, findings: Iterable[Finding]) -> dict[str, Any]:
    """The object of `check --json`; formats are described in docs/check-format.md."""
    played = report.played
    frame = played.groove.pattern.frame
    hits = played.hits
    return {
        "findings": [_finding(f) for f in findings],
        "sticking": [
            {
                "bar": frame.spot_at(hits[i].position_ticks).bar,
                "spot": played.spot(hits[i].position_ticks),
                "voice": hits[i].voice,
                "limb": limb,
                "grace": hits[i].grace,
            }
            for i, limb in sorted(report.limbs.items())
        ],
        "names": [
            {
                "bar": frame.spot_at(n.start_ticks).bar,
                "spot": played.spot(n.start_ticks),
                "to_bar": frame.spot_at(n.end_ticks).bar,
                "to_spot": played.spot(n.end_ticks),
                "name": n.words,
            }
            for n in report.names
        ],
        "limits_bpm": [{"bar": row.bar, "limb": row.limb, "bpm": row.whole_bpm} for row in report.limits],
        "likeness": _likeness(report.likeness),
    }


def _finding(f: Finding) -> dict[str, Any]:
    return {
        "kind": f.kind,
        "name": f.name,
        "bar": f.bar,
        "spot": f.spot,
        "voices": list(f.voices),
        "why": f.why,
        "sure": f.sure,
        "playable_to_bpm": f.playable_to_bpm,
        "mends": list(f.mends),
    }


def _likeness(found: Likeness) -> dict[str, Any]:
    return {
        "score": found.score,
        "taken_for": found.taken_for,
        "reasons": [
            {
                "measure": r.measure,
                "value": round(r.value, 3),
                "unit": r.unit,
                "players": [r.low, r.high],
                "score": r.score,
            }
            for r in found.reasons
        ],
    }
