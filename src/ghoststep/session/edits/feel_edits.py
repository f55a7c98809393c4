"""Edits of how a groove is played: placement, pulling to the grid, feels laid on, printed into hits and taken off."""

from collections.abc import Collection, Sequence
from dataclasses import replace

import numpy as np

from ghoststep.feel.blend import between
from ghoststep.feel.measure import measured
from ghoststep.feel.perform import held_back, perform
from ghoststep.feel.transfer import laid_on
from ghoststep.music.errors import InputError
from ghoststep.music.feel import Feel, Swing
from ghoststep.music.groove import Groove
from ghoststep.music.kit import VOICE_NAMES, voice
from ghoststep.music.pattern import Hit
from ghoststep.session.document.document import Document
from ghoststep.session.edits.hit_edits import Edit
from ghoststep.session.words import count

# Where a player sits who is heard as ahead of the click or behind it, in ms (working assumptions, within the 5 to 20 ms
# that listeners notice and like).
AHEAD_MS, BEHIND_MS = -10.0, 12.0
PLACEMENTS = {"ahead": AHEAD_MS, "on": 0.0, "behind": BEHIND_MS}


def limits_told(edit: Edit) -> Edit:
    """An edit of a feel, with how many strokes it cannot move as far as it says: a limb's strokes keep their order."""
    words, document = edit
    waiting = held_back(document.groove)
    told = f" ({count(waiting, 'stroke')} held back by the one before it)" if waiting else ""
    return words + told, document


def set_placement(document: Document, where: str, voices: Collection[str] = (), by_ms: float | None = None) -> Edit:
    """Voices (or all) ahead of the pulse, on it or behind it: their mean moves there, and what they differ by stays.

    Raises
    ------
    InputError
        Where there is no hit.
    """
    feel = document.groove.feel
    chosen = [v for v in VOICE_NAMES if v in (voices or document.groove.pattern.voices)]
    if not chosen:
        raise InputError("There is no hit yet whose placement could be set.")
    wanted = PLACEMENTS[where] if by_ms is None else (abs(by_ms) if where == "behind" else -abs(by_ms))
    used = [v for v in chosen if v in document.groove.pattern.voices] or chosen
    shift = wanted - sum(feel.lean_of(v) for v in used) / len(used)
    leans = dict(feel.lean_ms) | {v: feel.lean_of(v) + shift for v in chosen}
    whose = "All" if not voices else voice(used[0]).label
    told = f"{where} the pulse" + (f", {abs(wanted):g} ms" if wanted else "")
    return f"{whose} {told}", document.with_groove(feel=replace(feel, lean_ms=leans))


def set_voice_swing(document: Document, swing: Swing, voices: Sequence[str]) -> Edit:
    """A swing of their own for some voices."""
    feel = document.groove.feel
    swings = {**feel.swings, **dict.fromkeys(voices, swing)}
    named = voice(voices[0]).label
    return f"{named}: swing {100 * swing.ratio:.1f} %", document.with_groove(feel=replace(feel, swings=swings))


def pulled(document: Document, hits: Sequence[Hit], percent: float, *, lean: bool = False, swing: bool = False) -> Edit:
    """Hits pulled towards the grid by a share of their own deviation; with all of them the looseness goes along.

    Lean and swing stay unless they are wanted too, which is only possible for all hits together.

    Raises
    ------
    InputError
        Where only some hits are to be pulled in lean or swing, which belong to whole voices.
    """
    groove = document.groove
    keep = 1 - percent / 100
    whole = len(hits) == len(groove.pattern.hits)
    if (lean or swing) and not whole:
        raise InputError("Lean and swing are those of whole voices: leave the hits unchosen to pull these too.")
    gone = groove.pattern.indices_of(hits)
    new = [h if h.grace else replace(h, offset_ms=_tidy(keep * h.offset_ms)) for h in hits]
    feel = groove.feel
    if whole:
        feel = replace(feel, loose_ms=keep * feel.loose_ms)
    if lean:
        spots = tuple(replace(s, late_ms=keep * s.late_ms) for s in feel.spots)
        feel = replace(feel, lean_ms={v: keep * ms for v, ms in feel.lean_ms.items()}, spots=spots)
    if swing:
        own = {v: Swing(s.unit, between(0.5, s.ratio, keep)) for v, s in feel.swings.items()}
        feel = replace(feel, swing=Swing(feel.swing.unit, between(0.5, feel.swing.ratio, keep)), swings=own)
    words = f"{count(len(new), 'hit')} pulled {percent:g} % towards the grid"
    more = [name for name, wanted in (("lean", lean), ("swing", swing)) if wanted]
    words += f", {' and '.join(more)} too" if more else ""
    return words, document.with_groove(pattern=groove.pattern.with_hits(gone, new), feel=feel)


def lay(
    document: Document, player: Feel, name: str, *, touch: float, time: float, voices: Collection[str] | None = None
) -> Edit:
    """A player's feel laid on the groove; what was mapped how is told."""
    feel, told = laid_on(player, document.groove, touch=touch, time=time, voices=voices)
    words = f"{name} laid on, touch {100 * touch:g} %, time {100 * time:g} %. {' '.join(told)}"
    return words, document.with_groove(feel=feel)


def printed(document: Document, voices: Collection[str] = (), chosen: Sequence[Hit] = ()) -> Edit:
    """The feel written into some hits, those of some voices, or all, as they are played now.

    They have none of their own then, and every pass plays them alike; the others go on. Ornaments stay ornaments.

    Raises
    ------
    InputError
        Where these voices have no hit.
    """
    groove = _own_whole(document.groove)
    named = {v for v in groove.pattern.voices if not voices or v in voices}
    if len(chosen) == len(groove.pattern.hits):
        chosen = ()
    keys = {h.key for h in chosen} if chosen else {h.key for h in groove.pattern.hits if h.voice in named}
    if not keys:
        raise InputError("No hit of these voices is there to print the feel into.")
    everything = len(keys) == len(groove.pattern.hits) and not groove.feels
    plain = groove.changed(hits=tuple(replace(h, ornament="") for h in groove.pattern.hits))
    still = plain.changed(feel=replace(groove.feel, balance_db={})) if not everything else plain
    played, levels = perform(plain), perform(still).velocity
    late_ms = 1000 * (played.onset_s - groove.tempo.seconds([h.position_ticks for h in plain.pattern.hits]))
    hits = [
        replace(h, offset_ms=_tidy(float(ms)), velocity=int(x), fixed=not everything) if h.key in keys else h
        for h, ms, x in zip(groove.pattern.hits, late_ms, levels, strict=True)
    ]
    feel = groove.feel
    if not chosen:  # what is put into these voices later has none either
        feel = without_voices(groove, named)
    return f"The feel is printed into {count(len(keys), 'hit')}", document.with_groove(hits=tuple(hits), feel=feel)


def set_fixed(document: Document, hits: Sequence[Hit], fixed: bool) -> Edit:
    """Hits played as they are written, or by the feel."""
    gone = document.groove.pattern.indices_of(hits)
    new = [replace(h, fixed=fixed) for h in hits]
    words = f"{count(len(new), 'hit')} {'played as written' if fixed else 'played by the feel'}"
    return words, document.with_groove(pattern=document.groove.pattern.with_hits(gone, new))


def without_voices(groove: Groove, voices: Collection[str]) -> Feel:
    """The feel without what it does to some voices; nothing of it is left where these are all."""
    feel = groove.feel
    rest = [v for v in groove.pattern.voices if v not in voices]
    if not rest:
        return Feel(take=feel.take, seed=feel.seed, spacing=feel.spacing)
    straight = Swing(feel.swing.unit, 0.5)
    return replace(
        feel,
        lean_ms={v: ms for v, ms in feel.lean_ms.items() if v not in voices},
        swings={**feel.swings, **dict.fromkeys(voices, straight)},
        spots=tuple(s for s in feel.spots if s.voice not in voices),
        touch=replace(feel.touch, levels=tuple(row for row in feel.touch.levels if row[0] not in voices)),
        steady=tuple(sorted({*feel.steady, *voices})),
    )


def taken_off(document: Document, voices: Collection[str] = (), chosen: Sequence[Hit] = ()) -> Edit:
    """What some hits, those of some voices, or all have in common, measured, taken off them and kept as feel.

    It sounds as before: lean, swing and what spots add become the feel's; what varies stays with the hits. Hits that
    were fixed follow the feel again.

    Raises
    ------
    InputError
        Where these voices have no hit.
    """
    groove = _own_whole(document.groove)
    keys = {h.key for h in chosen} or {h.key for h in groove.pattern.hits if not voices or h.voice in voices}
    taken = tuple(h for h in groove.pattern.hits if h.key in keys)
    if not taken:
        raise InputError("No hit of these voices is there to take a feel off.")
    named = {h.voice for h in taken}
    mine = groove.changed(hits=taken, feel=replace(groove.feel, loose_ms=0.0))
    found = measured(mine).feel
    everything = named == set(groove.pattern.voices)
    old = groove.feel
    spots = tuple(replace(s, levels=(0.0, 0.0, 0.0)) for s in found.spots)
    kept = tuple(s for s in old.spots if s.voice not in named)
    feel = replace(
        old,
        swing=found.swing if everything else old.swing,
        swings={**old.swings, **{v: found.swing_of(v) for v in named}},
        lean_ms={**{v: ms for v, ms in old.lean_ms.items() if v not in named}, **found.lean_ms},
        spots=kept + tuple(s for s in spots if s.late_ms),
    )
    loose = tuple(replace(h, fixed=False) if h.key in keys else h for h in groove.pattern.hits)
    new = groove.changed(feel=feel, hits=loose)
    before, after = perform(_bare(groove)), perform(_bare(new))
    shift = 1000 * (before.onset_s - after.onset_s)
    hits = tuple(
        replace(h, offset_ms=_tidy(h.offset_ms + float(ms))) if h.voice in named and not h.fixed else h
        for h, ms in zip(loose, shift, strict=True)
    )
    return f"The feel of {count(len(taken), 'hit')} is measured and kept", document.with_groove(hits=hits, feel=feel)


def _own_whole(groove: Groove) -> Groove:
    """The same groove with all of the hits' own deviations played, made as long as they are played now."""
    share = groove.feel.own_share
    if share == 1:
        return groove
    hits = tuple(h if h.grace else replace(h, offset_ms=share * h.offset_ms) for h in groove.pattern.hits)
    return groove.changed(hits=hits, feel=replace(groove.feel, own_share=1.0))


def _bare(groove: Groove) -> Groove:
    """Without ornaments, so that played hits are the pattern's."""
    return groove.changed(hits=tuple(replace(h, ornament="") for h in groove.pattern.hits))


def _tidy(ms: float) -> float:
    return 0.0 if abs(ms) < 1e-6 else float(np.round(ms, 9))


def choose_take(document: Document, number: int) -> Edit:
    """A take that was heard and is kept: from now on every pass is this one."""
    return set_frozen(document.with_groove(feel=replace(document.groove.feel, take=number)), True)


def set_frozen(document: Document, frozen: bool, another_every: int = 0) -> Edit:
    """Whether every pass of a loop is the same, or all but every so many, or each is played anew as a player would."""
    feel = replace(document.groove.feel, frozen=frozen, another_every=another_every if frozen else 0)
    alike = f"every {another_every} passes another take" if another_every else "every pass alike"
    words = f"Take {feel.take} is frozen: {alike}" if frozen else "Every pass is played anew"
    return words, document.with_groove(feel=feel)


def with_leans_scaled(document: Document, times: float) -> Document:
    """Leans of voices and spots so many times as long: where a tempo changes and they are meant as shares of a beat."""
    feel = document.groove.feel
    leans = {v: min(max(times * ms, -200.0), 200.0) for v, ms in feel.lean_ms.items()}
    spots = tuple(replace(s, late_ms=min(max(times * s.late_ms, -200.0), 200.0)) for s in feel.spots)
    return document.with_groove(feel=replace(feel, lean_ms=leans, spots=spots))
