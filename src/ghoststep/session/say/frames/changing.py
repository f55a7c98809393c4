"""Strokes made something else: another drum, an ornament, another stroke, another hand, another spot."""

from collections.abc import Iterator, Sequence

from ghoststep.music.kit import voice
from ghoststep.music.pattern import Hit
from ghoststep.music.spots import count_name
from ghoststep.session.say.clause import Clause, Part
from ghoststep.session.say.frames.common import (
    chosen,
    main_strokes,
    name_of,
    named,
    on,
    on_chosen,
    ornament_word,
    said_places,
)
from ghoststep.session.say.lexicon import HATS
from ghoststep.session.say.places import Spots
from ghoststep.session.say.selecting import Thing
from ghoststep.session.say.sense import AlreadyError, MissingError, Reading, Sense

_KEEPERS = {*HATS, "ride", "ride_bell"}  # what the hand that keeps time plays
_PLAIN = {"act", "drum", "role", "nth", "stretch", "relation", "noun", "all", "soft", "hard"}


def voices(c: Clause, sense: Sense) -> Iterator[Reading]:
    """ "put the hats on the ride", "ride instead of hats", "ghosts on the floor tom", "go to the ride in bar 3"."""
    if c.kinds() - _PLAIN or c.amounts or (c.acts("remove", "only", "add") and not c.acts("replace")):
        return
    things = [p for p in c.parts if isinstance(p.value, Thing)]
    drums = [p for p in things if isinstance(p.value, Thing) and p.value.voices]
    instead = [p for p in things if p.relation == "instead"]
    new: Part | None = None
    old: Thing | None = None
    if instead and drums:
        old = instead[0].value if isinstance(instead[0].value, Thing) else None
        new = next((p for p in drums if not p.relation), None)
    elif (c.acts("replace") and "with" in c.words and len(drums) == 2) or (c.acts("swap") and len(drums) == 2):
        old, new = _thing(drums[0]), drums[1]
    elif (
        len(things) >= 2 and things[-1].prep in ("on", "to", "into", "for") and drums and drums[-1] is things[-1]
    ) or (len(things) >= 2 and c.acts("replace") and drums and drums[-1] is things[-1]):
        old, new = _thing(things[0]), things[-1]
    elif (
        len(drums) == 1
        and not instead
        and (drums[0].prep in ("to", "on") or (c.bars and c.words & {"use", "switch", "go", "change"}))
        and (c.acts("replace", "move") or (c.stretch is not None and not c.all("act")))
    ):
        spots = c.spots
        back = spots is not None and any(s.kind in ("backbeats", "nth backbeat") for s in spots.all)
        mine = _thing(drums[0]).voices or ()
        if len(things) == 1 and set(mine) & _KEEPERS and not back:
            old, new = Thing(tuple(v for v in (*HATS, "ride", "ride_bell") if v not in mine)), drums[0]
    if new is None or old is None or not isinstance(new.value, Thing) or not new.value.voices:
        return
    by_foot = old.voices is not None and set(old.voices) <= {"kick", "hat_pedal"}
    if by_foot and not c.acts("replace", "swap") and not instead:
        return  # "kick on the toms"
    goal = new.value.voices[0]
    hits = [h for h in sense.hits(_there(c, old)) if h.voice not in new.value.voices]
    if old.voices is None:  # "the accents on the floor tom" are those of the hands
        hits = [h for h in hits if voice(h.voice).limb in "RL"]
    if not hits:
        raise AlreadyError(f"That is {name_of(new.value.voices)} already.")
    yield Reading(
        f"{named(sense, old, hits).capitalize()} to the {voice(goal).label.lower()}",
        on(sense, f"voice {goal}", hits),
        1.15,
    )


def _thing(part: Part) -> Thing:
    assert isinstance(part.value, Thing)
    return part.value


def _there(c: Clause, thing: Thing) -> Thing:
    spots = c.spots
    return Thing(thing.voices, thing.role, thing.backbeat, thing.nth, spots, c.where, c.stretch)


def same_lane(c: Clause, sense: Sense) -> Iterator[Reading]:
    """A stroke of a lane as another of its voices, where that is what the words mean: "open hat on 4&", "half open
    hats", "ride bell on the beats", "cross stick on the backbeats"."""
    drums = [p for p in c.things if isinstance(p.value, Thing) and p.value.voices]
    opened = c.acts("open") and not drums
    if c.kinds() - _PLAIN or c.amounts or c.acts("remove", "only", "close") or c.related("instead", "except"):
        return
    goal = _goal(c, drums)
    if goal is None:
        return
    lane = _lane_of(goal, drums, sense)
    if not lane:
        return
    spots = c.spots
    related = c.related("with", "before", "after")
    base = Thing(lane, None, False, tuple(n for p in drums for n in _thing(p).nth), spots, c.where, c.stretch)
    rest: tuple[str, ...] = ()
    likely = 1.1
    if related:
        likely = 1.3
        hits = _related(c, sense, base, related[0])
        if related[0].relation == "with" and goal in HATS:
            rest = _where_none_is(sense, base, goal, _marks(c, sense, related[0]))
    else:
        sense.check(base)
        hits = sense.where.hits(base)
    if spots is not None and any(s.kind == "end" for s in spots.all):
        likely = 1.3
    hits = [h for h in hits if h.voice != goal]
    if not hits:
        return
    if (
        spots is None
        and not related
        and not base.nth
        and c.where is None
        and c.stretch is None
        and goal in ("ride_bell", "cross_stick")
        and not opened
    ):
        return
    if spots is not None and not spots.last and not spots.row and not related:
        wanted = sense.where.places(spots, c.where, c.stretch)
        there = sense.where.by_bar(h.position_ticks for h in sense.where.hits(base))
        if any(wanted[b] - there.get(b, set()) for b in wanted) and goal not in ("hat_open", "hat_half"):
            return  # strokes of it are put where nothing of the lane strikes
    yield Reading(
        f"{named(sense, base, hits).capitalize()}: {voice(goal).label.lower()}",
        on(sense, f"voice {goal}", hits) + rest,
        likely,
    )


def _where_none_is(sense: Sense, base: Thing, goal: str, marks: set[int]) -> tuple[str, ...]:
    """Phrases that put the goal where others strike and nothing of its lane does."""
    there = {h.position_ticks for h in sense.where.hits(Thing(base.voices))}
    rows = sense.where.place_rows(sense.where.by_bar(marks - there)) if marks - there else []
    return tuple(f"place {goal} {spots} {bars}".strip() for spots, bars in rows)


def _goal(c: Clause, drums: Sequence[Part]) -> str | None:
    if c.acts("open") and (not drums or set(_thing(drums[0]).voices or ()) >= set(HATS)):
        return "hat_open"
    if len(drums) == 1:
        mine = _thing(drums[0]).voices or ()
        if len(mine) == 1 and mine[0] in ("hat_open", "hat_half", "ride_bell", "cross_stick"):
            return mine[0]
        if set(mine) == set(HATS) and c.acts("humanise") and c.acts("replace"):
            return "hat_half"
    return None


def _lane_of(goal: str, drums: Sequence[Part], sense: Sense) -> tuple[str, ...]:
    """The voices of which strokes become the goal: hats of each other, the bell's of what keeps time, the rim's of the
    snare."""
    there = set(sense.pattern.voices)
    if goal in HATS:
        return tuple(v for v in HATS if v in there) or tuple(v for v in ("ride",) if v in there)
    if goal == "ride_bell":
        if "ride" in there:
            return ("ride", "ride_bell")
        return tuple(v for v in HATS if v in there)
    return ("snare", "cross_stick") if "snare" in there else ()


def _related(c: Clause, sense: Sense, base: Thing, part: Part) -> list[Hit]:
    """Of a lane's strokes those with, just before or just after others."""
    marks = _marks(c, sense, part)
    mine = sense.where.hits(base)
    if part.relation == "with":
        return [h for h in mine if h.position_ticks in marks]
    row = sorted({h.position_ticks for h in mine})
    chosen: set[int] = set()
    for mark in marks:
        side = [t for t in row if (t < mark if part.relation == "before" else t > mark)]
        if side:
            chosen.add(max(side) if part.relation == "before" else min(side))
    return [h for h in mine if h.position_ticks in chosen]


def _marks(c: Clause, sense: Sense, part: Part) -> set[int]:
    """Where what stands behind a relation strikes, in ticks of the groove."""
    other = part.value
    if isinstance(other, Thing):
        meant = Thing(other.voices, other.role, other.backbeat, other.nth, None, c.where)
        return {h.position_ticks for h in main_strokes(sense.hits(meant), part.relation)}
    places = sense.where_spots(Thing(spots=other, bars=c.where))
    return {sense.where.frame.start_of(b) + t for b, ticks in places.items() for t in ticks}


def closing(c: Clause, sense: Sense) -> Iterator[Reading]:
    if not c.acts("close") or c.kinds() - {"act", "drum", "noun"}:
        return
    spots = c.spots
    if spots is None or not spots.all:
        hits = sense.where.hits(Thing(("hat_open", "hat_half"), None, False, (), None, c.where))
        if not hits:
            raise MissingError("No hat is open there.")
        yield Reading(f"{named(sense, None, hits).capitalize()}: closed", on(sense, "voice hat_closed", hits))
        return
    places = sense.where_spots(Thing(spots=spots, bars=c.where))
    opened = [h for h in sense.pattern.hits if h.voice in ("hat_open", "hat_half")]
    if not opened:
        raise MissingError("No hat is open there.")
    frame, opened_at = sense.where.frame, sorted(h.position_ticks for h in opened)
    places = {b: {t for t in ticks if _rings(sense, frame.start_of(b) + t, opened_at)} for b, ticks in places.items()}
    places = {b: ticks for b, ticks in places.items() if ticks}
    rows = sense.where.place_rows(places)
    if not rows:
        raise MissingError("No hat rings there that could be closed.")
    yield Reading(
        f"The open hat is closed at {said_places(sense, places)}",
        tuple(f"close hat at {s} {b}".strip() for s, b in rows),
    )


def _rings(sense: Sense, at: int, opened: Sequence[int]) -> bool:
    """Whether the last stroke of the hats before a position is an open one."""
    before = [h for h in sense.pattern.hits if h.position_ticks < at and h.voice in (*HATS, "hat_pedal")]
    return bool(before) and before[-1].position_ticks in opened


def ornaments(c: Clause, sense: Sense) -> Iterator[Reading]:
    """ "flam on 4", "a drag before the 2", "rimshot on every backbeat", "left hand on the ghosts"."""
    asked = [("ornament", "ornament"), ("stroke", "stroke"), ("limb", "limb")]
    found = [(verb, c.all(table)) for table, verb in asked if c.all(table)]
    if not found or c.kinds() - {
        "act",
        "drum",
        "role",
        "nth",
        "ornament",
        "stroke",
        "limb",
        "relation",
        "noun",
        "note",
        "degree",
        "stretch",
        "soft",
        "hard",
    }:
        return
    if c.amounts or (c.all("compared") and not ornament_word(c)):
        return
    verb, values = found[0]
    mine = chosen(c, sense)
    plain_double = values[0] == "double" and not {"stroke", "strokes", "doubles"} & c.words
    if mine and not plain_double and not c.kinds() - {"ornament", "stroke", "limb", "act"}:
        yield from on_chosen(sense, f"{verb} {values[0]}", mine)
        return
    if values[0] == "double" and c.bars and not (c.parts or c.stretch):
        return  # "double bar 2"
    if c.acts("remove"):
        hits = [h for h in sense.where.hits(c.thing() or Thing(bars=c.where, spots=c.spots)) if h.ornament == values[0]]
        if not hits:
            raise MissingError(f"There is no {values[0]} there.")
        yield Reading(f"No {values[0]}: {named(sense, None, hits)}", on(sense, "ornament none", hits), 1.2)
        return
    near = c.related("before", "after", "with")
    spots = c.spots
    for part in near:
        if isinstance(part.value, Spots):
            spots = part.value
    drums = [p.value for p in c.parts if isinstance(p.value, Thing)]
    drum = next((d for d in drums if d.named or d.nth), None)
    if drum is None:
        back = spots is not None and any(s.kind in ("backbeats", "nth backbeat") for s in spots.all)
        drum = Thing(("snare",), None, False) if not back else Thing(backbeat=True)
    if (
        spots is not None
        and spots.beats
        and c.where is None
        and not spots.last
        and len(spots.all) == 1
        and spots.all[0].number == -1
    ):
        spots = Spots(spots.all, True, True)
    aim = Thing(drum.voices, drum.role, drum.backbeat, drum.nth, spots, c.where, c.stretch)
    single = drum.named and (drum.role or drum.backbeat or drum.nth)
    everywhere = bool({"all", "everywhere", "every"} & c.words)
    if not single and spots is None and c.where is None and verb != "limb" and not everywhere:
        return
    if verb == "ornament" and drum.voices and not any(voice(v).group in ("snare", "toms") for v in drum.voices):
        raise MissingError(f"A {values[0]} is struck on snare and toms, not on the {name_of(drum.voices)}.")
    if spots is not None and drum.voices and verb == "ornament" and not sense.where.hits(aim):
        places = sense.where_spots(Thing(spots=spots, bars=c.where))
        rows = sense.where.place_rows(places)
        new = [f"place {drum.voices[0]} {s} {b}".strip() for s, b in rows]
        new += [f"ornament {values[0]} on {drum.voices[0]} at {s} {b}".strip() for s, b in rows]
        yield Reading(f"Put {name_of(drum.voices)} with a {values[0]} on {said_places(sense, places)}", tuple(new), 1.2)
        return
    hits = sense.hits(aim)
    if verb == "ornament":
        hits = [h for h in hits if voice(h.voice).group in ("snare", "toms") or h.voice == "snare"]
    word = {"l": "left hand", "r": "right hand"}.get(str(values[0]), str(values[0]))
    yield Reading(f"{named(sense, aim, hits).capitalize()}: {word}", on(sense, f"{verb} {values[0]}", hits), 1.1)


def lasting(c: Clause, sense: Sense) -> Iterator[Reading]:
    """ "lasts 1/8: open hat on 4": how long a stroke sounds until it is stopped."""
    length = c.one("length")
    thing = c.thing()
    if length is None or not c.acts("lasts") or thing is None or c.kinds() - {"act", "drum", "length"}:
        return
    hits = sense.hits(thing)
    yield Reading(f"{named(sense, thing, hits).capitalize()} lasts {length}", on(sense, f"length {length}", hits))


def moved(c: Clause, sense: Sense) -> Iterator[Reading]:
    """ "move the backbeat from 4 to the and of 4", "snare on 3 instead of 2 and 4"."""
    if c.kinds() - {"act", "drum", "role", "relation", "noun", "nth"} or c.amounts or c.acts("remove", "only"):
        return
    spots = [p for p in c.parts if isinstance(p.value, Spots)]
    things = [p.value for p in c.parts if isinstance(p.value, Thing)]
    thing = things[0] if things else None
    instead = [p for p in spots if p.relation == "instead"]
    start = next((p for p in spots if p.prep == "from"), None)
    goal = next((p for p in spots if p.prep in ("to", "into", "onto")), None)
    if instead:
        start = instead[0]
        goal = next((p for p in spots if not p.relation), None)
    elif c.acts("move") and goal is not None and start is None:
        start = next((p for p in spots if p is not goal), None)
    back = [p for p in spots if any(s.kind in ("backbeats", "nth backbeat") for s in p.value.all)]  # type: ignore[union-attr]
    if thing is None and back and goal is not None:
        thing = Thing(backbeat=True)
        start = next((p for p in spots if p is not goal and p not in back), back[0])
    if thing is None or goal is None or start is None or (not c.acts("move", "replace", "add") and not instead):
        return
    if not isinstance(goal.value, Spots) or goal.value.row:
        return
    old = sense.hits(Thing(thing.voices, thing.role, thing.backbeat, thing.nth, start.spots, c.where))
    if len(goal.value.all) != 1:
        yield _elsewhere(c, sense, thing, old, goal.value)
        return
    for bar in {sense.where.frame.spot_at(h.position_ticks).bar for h in old}:
        if not goal.value.ticks(sense.where.meter(bar)):
            raise MissingError(f"Bar {bar} has no such spot.")
    yield Reading(f"{named(sense, thing, old).capitalize()} moved", tuple(_folded(sense, old, goal.value)), 1.3)


def _elsewhere(c: Clause, sense: Sense, thing: Thing, old: Sequence[Hit], goal: Spots) -> Reading:
    """Strokes taken away, and new ones on several spots instead."""
    name = thing.voices[0] if thing.voices else old[0].voice
    places = sense.where_spots(Thing(spots=goal, bars=c.where))
    new = tuple(f"place {name} {s} {b}".strip() for s, b in sense.where.place_rows(places))
    words = f"{named(sense, thing, old).capitalize()} away, instead on {said_places(sense, places)}"
    return Reading(words, (*on(sense, "remove", old), *new), 1.3)


def _folded(sense: Sense, old: Sequence[Hit], goal: Spots) -> list[str]:
    """The first of each bar to the goal, the others of the bar away."""
    first: list[Hit] = []
    rest: list[Hit] = []
    seen: set[int] = set()
    for h in old:
        bar = sense.where.frame.spot_at(h.position_ticks).bar
        (rest if bar in seen else first).append(h)
        seen.add(bar)
    meter = sense.where.meter(min(seen))
    name = count_name(min(goal.ticks(meter)), meter)
    return [
        *[f"move to {name} on {row}" for row in sense.where.targets(first)],
        *([f"remove on {row}" for row in sense.where.targets(rest)] if rest else []),
    ]
