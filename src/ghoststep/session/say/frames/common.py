"""What several frames need: exact phrases on some hits, names of things for people."""

from collections.abc import Sequence

from ghoststep.music.kit import voice
from ghoststep.music.pattern import Hit
from ghoststep.music.touch import Role
from ghoststep.session.say.clause import Clause
from ghoststep.session.say.lexicon import HATS, TOMS
from ghoststep.session.say.selecting import Thing
from ghoststep.session.say.sense import Reading, Sense
from ghoststep.session.words import count, runs


def chosen(c: Clause, sense: Sense) -> list[Hit]:
    """The hits that are chosen, where a sentence names none and no place: "louder", "remove it", "make it a ghost"."""
    if c.parts or c.bars or c.stretch or c.all("all"):
        return []
    return sense.context.hits


def on_chosen(sense: Sense, verb: str, hits: Sequence[Hit]) -> tuple[Reading, ...]:
    """A verb on what is chosen."""
    what = "The chosen stroke" if len(hits) == 1 else f"The {len(hits)} chosen strokes"
    word, _, rest = verb.partition(" ")
    said = {"velocity": f"{rest} in velocity", "nudge": rest, "remove": "taken away", "limb": f"hand {rest.upper()}"}
    return (Reading(f"{what}: {said.get(word, rest)}", (verb,), 1.1),)


def on(sense: Sense, verb: str, hits: Sequence[Hit]) -> tuple[str, ...]:
    """A verb on just these hits, in one phrase."""
    return (f"{verb} on {' also '.join(sense.where.targets(hits))}",) if hits else ()


def ornament_word(c: Clause) -> bool:
    """Whether a word that may be a comparison is said as an ornament: "a drag before 2", "drag on every backbeat"."""
    for k, item in enumerate(c.items):
        if item.kind == "either" and {"compared", "ornament"} <= {n for n, _ in item.value}:
            after = c.items[k + 1] if k + 1 < len(c.items) else None
            if after is not None and (after.kind == "relation" or c.row[after.first] in ("on", "into", "before")):
                return True
            if k and c.row[c.items[k - 1].first] in ("a", "an", "every"):
                return True
    return False


def main_strokes(hits: Sequence[Hit], relation: str) -> Sequence[Hit]:
    """What "before each snare" counts from: ghosts are no strokes of their own there, unless there are only ghosts."""
    if relation == "with":
        return hits
    return [h for h in hits if h.role is not Role.GHOST] or hits


def name_of(voices: Sequence[str] | None) -> str:
    """Voices as people call them: "the hat", "snare and kick"."""
    if not voices:
        return "everything"
    row = [*voices]
    if set(HATS) <= set(row):
        row = ["hat", *[v for v in row if v not in HATS]]
    if set(TOMS) <= set(row):
        row = ["toms", *[v for v in row if v not in TOMS]]
    return " and ".join(x if x in ("hat", "toms") else voice(x).label.lower() for x in row)


def named(sense: Sense, thing: Thing | None, hits: Sequence[Hit]) -> str:
    """Some hits for people: how many of what, in which bars."""
    where = sense.where
    voices = list(dict.fromkeys(h.voice for h in hits))
    bars = sorted({where.frame.spot_at(h.position_ticks).bar for h in hits})
    what = f"{name_of(voices)}" if len(voices) <= 3 else "all voices"
    inside = "" if len(bars) == where.pattern.bars else f" in bar{'s' if len(bars) > 1 else ''} {runs(bars)}"
    ticks = {where.frame.spot_at(h.position_ticks).tick for h in hits}
    if len(ticks) <= 4 and len(voices) <= 2:
        at = " and ".join(where.spot_words({t}, bars[0]) for t in sorted(ticks))
        return f"{what} at {at}{inside}"
    return f"{what}{inside} ({count(len(hits), 'hit')})"


def said_places(sense: Sense, places: dict[int, set[int]]) -> str:
    """Places for people: "2a and 4 in bar 3"."""
    rows = sense.where.place_rows(places)
    if len(rows) == 1 and not rows[0][1] and sense.pattern.bars > 1:
        return f"{rows[0][0].replace(',', ', ')} in every bar"
    out = []
    for spots, bars in rows:
        plain = bars if "-" in bars or "," in bars else bars.replace("bars", "bar")
        out.append(spots.replace(",", ", ") + (f" in {plain}" if bars else ""))
    return "; ".join(out)
