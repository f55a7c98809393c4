"""Checking a document: mends that are tried before they are offered, and the report as JSON."""

import time
from collections.abc import Callable, Iterable
from dataclasses import asdict, replace
from typing import Any

from ghoststep.judge.alternatives import alternatives
from ghoststep.judge.check import Report, Terms, checked
from ghoststep.judge.finding import Finding
from ghoststep.judge.layers import LAYERS
from ghoststep.judge.likeness import Likeness
from ghoststep.music.errors import Cancelled
from ghoststep.music.groove import Groove
from ghoststep.session.document.document import Document
from ghoststep.session.edits.commit import opened
from ghoststep.session.language.edit_context import EditContext
from ghoststep.session.language.mending import mends_of, same

TRIED, BUDGET_S = 60, 15.0  # findings whose mends are tried for a file, and for how long: each is a check of its own


def with_mends(
    groove: Groove, report: Report, terms: Terms, stopped: Callable[[], bool] = lambda: False
) -> tuple[list[Finding], int]:
    """The findings with only the mends that help, and how many were not tried, since there are so many or so long.

    Raises
    ------
    Cancelled
        When `stopped` says so.
    """
    context = EditContext(opened(Document("check", groove)))
    keyed = checked(context.document.groove, terms).findings
    out, untried, began = [], 0, time.monotonic()
    for number, finding in enumerate(report.findings):
        if stopped():
            raise Cancelled("The check was stopped.")
        tried = number < TRIED and time.monotonic() - began < BUDGET_S
        untried += not tried
        found = next((f for f in keyed if same(f, finding)), finding)
        mends = tuple(mends_of(context, found, terms)) if tried else ()
        out.append(replace(finding, mends=mends))
    return out, untried


# -- the report as JSON -------------------------------------------------------------------------------------------


def as_json(report: Report, findings: Iterable[Finding], terms: Terms) -> dict[str, Any]:
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
        "stickings": [
            {"about": a.about, "cost": a.cost, "limbs": [a.limbs[i] for i in sorted(a.limbs)]}
            for a in alternatives(played.groove, terms.way, setup=terms.setup, keep=True)
        ],
        "names": _names(report),
        "limits_bpm": [{"bar": row.bar, "limb": row.limb, "bpm": row.whole_bpm} for row in report.limits],
        "likeness": _likeness(report.likeness),
        "difficulty": {"score": report.difficulty.whole, **asdict(report.difficulty)},
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


def _names(report: Report) -> list[dict[str, object]]:
    """The names of the whole line, then those of every further layer, each at every place it stands at."""
    whole = [(n.words, (n.start_ticks, n.end_ticks), LAYERS[0], 1, "") for n in report.names]
    further = [
        (row.words, place, row.layer, row.times, row.cut)
        for row in report.layers
        if row.layer != LAYERS[0] or row.cut
        for place in row.places
    ]
    frame, spot = report.played.groove.pattern.frame, report.played.spot
    return [
        {
            "bar": frame.spot_at(start).bar,
            "spot": spot(start),
            "to_bar": frame.spot_at(end).bar,
            "to_spot": spot(end),
            "name": words,
            "layer": layer,
            **({"times": times} if times > 1 else {}),
            **({"cut": cut} if cut else {}),
        }
        for words, (start, end), layer, times, cut in (*whole, *further)
    ]
