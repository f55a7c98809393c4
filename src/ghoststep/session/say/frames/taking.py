"""Strokes taken away, bars emptied, parts made thinner."""

from collections.abc import Iterator

from ghoststep.music.touch import Role
from ghoststep.session.say.clause import Clause
from ghoststep.session.say.frames.common import name_of, named, on, on_chosen
from ghoststep.session.say.selecting import Thing
from ghoststep.session.say.sense import MissingError, Reading, Sense

_MEANT = {"act", "drum", "role", "all", "nth", "relation", "stretch", "noun", "soft", "hard", "player"}


def readings(c: Clause, sense: Sense) -> Iterator[Reading]:
    if not c.acts("remove", "clear") or c.kinds() - _MEANT or c.amounts or c.acts("insert", "add"):
        return
    if "except" in c.all("relation") and not c.related("except"):
        return
    things = [p.value for p in c.things if isinstance(p.value, Thing)]
    if not things and not c.bars and c.spots is None and c.stretch is None:
        if sense.context.hits and c.acts("remove") and not c.kinds() - {"act"}:
            yield from on_chosen(sense, "remove", sense.context.hits)
        return
    if not c.acts("clear") and not things and c.spots is None and c.stretch is None:
        return  # "delete bar 3" takes the bar out
    thing = c.thing() or Thing(spots=c.spots, bars=c.where, stretch=c.stretch)
    excepted = c.related("except")
    base = thing
    if excepted and isinstance(excepted[0].value, Thing) and not things:
        base = Thing(None, None, False, (), c.spots, c.where, c.stretch)
    hits = sense.hits(base, _words(base))
    related = c.related("with")
    if related:
        other = related[0].value
        if isinstance(other, Thing):
            at = {
                h.position_ticks
                for h in sense.hits(Thing(other.voices, other.role, other.backbeat, other.nth, None, c.where))
            }
        else:
            at = {
                sense.where.frame.start_of(b) + t
                for b, ts in sense.where_spots(Thing(spots=other, bars=c.where)).items()
                for t in ts
            }
        hits = [h for h in hits if h.position_ticks in at]
    beside = c.related("before", "after", "between")
    if beside:
        hits = _beside(c, sense, hits, beside[0])
    if excepted:
        hits = without(sense, base, hits, excepted[0].value, c)
    if not hits:
        raise MissingError(f"There is no {_words(base)} there.")
    yield Reading(f"Take away {named(sense, base, hits)}", on(sense, "remove", hits), 1.0)


def _words(thing: Thing) -> str:
    role = f" {thing.role.value}" if thing.role else ""
    return f"{name_of(thing.voices)}{role}" if thing.voices else f"{thing.role.value}" if thing.role else "stroke"


def _beside(c: Clause, sense: Sense, hits: list, part) -> list:  # type: ignore[no-untyped-def,type-arg]
    """Of some hits, those before or after a spot in their bar, or off the beats."""
    spots = part.value
    if isinstance(spots, Thing):
        if part.relation == "between" and not spots.named:
            return hits
        raise MissingError("Before or after which spot?")
    out = []
    for h in hits:
        spot = sense.where.frame.spot_at(h.position_ticks)
        ticks = sorted(spots.ticks(sense.where.meter(spot.bar)))
        if not ticks:
            continue
        if part.relation == "between":
            inside = spot.tick not in ticks if len(ticks) > 2 else ticks[0] < spot.tick < ticks[-1]
        else:
            inside = spot.tick < ticks[0] if part.relation == "before" else spot.tick > ticks[-1]
        if inside:
            out.append(h)
    return out


def without(sense: Sense, base: Thing, hits: list, kept: object, c: Clause) -> list:  # type: ignore[type-arg]
    """Hits but those that are excepted: other voices, spots, or the nth of each bar."""
    if isinstance(kept, Thing):
        if kept.nth and not kept.named:
            rows: dict[int, list] = {}  # type: ignore[type-arg]
            for h in hits:
                rows.setdefault(sense.where.frame.spot_at(h.position_ticks).bar, []).append(h)
            stay = {row[k].key for row in rows.values() for n in kept.nth for k in n.of(range(len(row)))}
            return [h for h in hits if h.key not in stay]
        stay_hits = {
            h.key
            for h in sense.where.hits(
                Thing(kept.voices or base.voices, kept.role, kept.backbeat, kept.nth, None, c.where)
            )
        }
        return [h for h in hits if h.key not in stay_hits]
    keep = sense.where_spots(Thing(spots=kept, bars=c.where))  # type: ignore[arg-type]
    frame = sense.where.frame
    return [
        h
        for h in hits
        if frame.spot_at(h.position_ticks).tick not in keep.get(frame.spot_at(h.position_ticks).bar, set())
    ]


def fewer(c: Clause, sense: Sense) -> Iterator[Reading]:
    """ "fewer ghosts", "thin out the hats in bar 3"."""
    less_ghosts = "less" in c.all("degree") and any(
        p.thing is not None and p.thing.role is Role.GHOST for p in c.things
    )
    if not (c.acts("thin") or (less_ghosts and not c.way("loud"))) or c.kinds() - {
        "act",
        "drum",
        "role",
        "nth",
        "degree",
    }:
        return
    thing = c.thing()
    if thing is None:
        return
    hits = sense.hits(thing)
    if thing.role is Role.GHOST or (thing.role is None and all(h.role is Role.GHOST for h in hits)):
        share = {"bit": 20, "tiny": 20, "lot": 60}.get(c.degree, 40)
        yield Reading(f"Fewer ghosts: the weakest {share} % go", on(sense, f"thin {share}%", hits))
        return
    beats = [
        h
        for h in hits
        if sense.where.frame.spot_at(h.position_ticks).tick
        % sense.where.meter(sense.where.frame.spot_at(h.position_ticks).bar).unit_ticks
    ]
    if not beats:
        raise MissingError("Only strokes on the beats are left there.")
    yield Reading(f"Fewer: {named(sense, thing, beats)} go, the beats stay", on(sense, "remove", beats), 0.9)


def simpler(c: Clause, sense: Sense) -> Iterator[Reading]:
    """ "simpler kick", "the kick is too busy": a voice keeps its strokes on the beats."""
    if not c.acts("simplify") or c.kinds() - {"act", "drum", "too", "noun"} or c.amounts:
        return
    thing = c.thing()
    if thing is None or not thing.voices:
        return
    frame = sense.where.frame
    hits = sense.hits(thing)
    off = [h for h in hits if frame.spot_at(h.position_ticks).tick % frame.meter_at(h.position_ticks).unit_ticks]
    gone = off or [h for h in hits if frame.beat_at(h.position_ticks) % 2 == 0]
    if not gone or len(gone) == len(hits):
        raise MissingError("It is as simple as it gets.")
    yield Reading(f"Take away {named(sense, thing, gone)}", on(sense, "remove", gone), 0.9)


def choked(c: Clause, sense: Sense) -> Iterator[Reading]:
    """ "choke the crash on 2": what rings is stopped at a spot."""
    if not c.acts("choke") or c.kinds() - {"act", "drum", "noun"}:
        return
    thing = c.thing()
    if thing is None or not thing.voices or c.spots is None:
        raise MissingError("Which cymbal is to be stopped, and where? For example: choke the crash on 2.")
    places = sense.where_spots(Thing(spots=c.spots, bars=c.where))
    rows = sense.where.place_rows(places)
    name = _first_there(thing.voices, sense)
    yield Reading(
        f"{name_of([name]).capitalize()} stopped there", tuple(f"choke {name} at {s} {b}".strip() for s, b in rows)
    )


def _first_there(voices: tuple[str, ...], sense: Sense) -> str:
    return next((v for v in voices if v in sense.pattern.voices), voices[0])


def swapped(c: Clause, sense: Sense) -> Iterator[Reading]:
    """ "swap kick and snare in bar 1": two drums change their parts."""
    drums = [v for p in c.things if p.thing is not None for v in p.thing.voices or ()]
    if not c.acts("swap") or len(drums) != 2 or c.kinds() - {"act", "drum"} or c.spots is not None or "for" in c.words:
        return
    spare = next(v for v in ("stack", "china", "cowbell", "shaker") if v not in sense.pattern.voices)
    bars = sense.where.bar_words(sense.where.bars(c.where)) if c.where else ""
    rows = ((drums[0], spare), (drums[1], drums[0]), (spare, drums[1]))
    phrases = tuple(f"voice {new} on {old} {bars}".strip() for old, new in rows)
    yield Reading(f"{name_of(drums).capitalize()} change their parts", phrases, 1.2)


def more_ghosts(c: Clause, sense: Sense) -> Iterator[Reading]:
    """ "more ghosts": what the program proposes, the fewest of them."""
    ghosts = [p.thing for p in c.things if p.thing is not None and p.thing.role is Role.GHOST]
    if (
        "more" not in c.words
        or not ghosts
        or c.way("loud")
        or c.spots is not None
        or c.bars
        or c.kinds() - {"role", "degree", "act"}
    ):
        return
    yield Reading("Ghosts where a hand has the time, a few", ("ghosts 1",), 0.9)
