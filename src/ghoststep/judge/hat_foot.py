"""Kicks of the left foot while it has to be at the hat."""

from collections.abc import Iterator

from ghoststep.judge.finding import Finding, keys_of
from ghoststep.judge.hat_work import FOOT_WAY_S, busy, taken
from ghoststep.judge.played import Played
from ghoststep.judge.words import at_words
from ghoststep.music.pattern import Hit


def foot_elsewhere(played: Played) -> Iterator[Finding]:
    """Kicks of the left foot while it has to open, hold or close the hat."""
    rows = [i for i, h in enumerate(played.hits) if not h.grace]
    seconds = played.groove.tempo.seconds([played.hits[i].position_ticks for i in rows]).tolist()
    lengths = [played.hits[i].length_ticks for i in rows]
    ends = played.groove.tempo.seconds([played.hits[i].position_ticks + n for i, n in zip(rows, lengths, strict=True)])
    stops = [float(e) if n else float("inf") for e, n in zip(ends, lengths, strict=True)]
    found = busy([(s, played.hits[i].voice) for s, i in zip(seconds, rows, strict=True)], stops)
    for second, i in zip(seconds, rows, strict=True):
        kick = played.hits[i]
        if kick.voice != "kick" or played.limbs[i] != "H" or (by := taken(found, second)) is None:
            continue
        hat = played.hits[rows[by]]
        yield _finding(played, kick, hat, second - seconds[by])


def _finding(played: Played, kick: Hit, hat: Hit, after_s: float) -> Finding:
    tick = kick.position_ticks
    doing = "plays the pedal of the hat" if hat.voice == "hat_pedal" else "opens the hat"
    if after_s >= 0:
        why, limit = f"The left foot {doing} on {played.spot(hat.position_ticks)} and has not closed it yet.", None
    else:
        limit = int(played.groove.tempo.bpm_at(tick) * -after_s / FOOT_WAY_S)
        why = f"The left foot {doing} {-1000 * after_s:.0f} ms later; that goes from {limit} BPM down."
    mends = (f"limb k on kick {at_words(played, tick)}", f"remove kick {at_words(played, tick)}",
             f"voice hat_closed on {hat.voice} {at_words(played, hat.position_ticks)}")  # fmt: skip
    bar = played.groove.pattern.frame.spot_at(tick).bar
    return Finding("impossible", "foot elsewhere", bar, tick, played.spot(tick), ("kick", hat.voice), why,
                   playable_to_bpm=limit, mends=mends, hits=keys_of([kick, hat]))  # fmt: skip
