"""New strokes: on spots, before and after others, with others, in even notes, and where a voice strikes alone."""

from collections.abc import Iterator
from itertools import pairwise

from ghoststep.music.kit import voice
from ghoststep.music.time import TICKS_PER_WHOLE, step_ticks
from ghoststep.music.touch import Role
from ghoststep.session.say.clause import Clause, Part, joined
from ghoststep.session.say.frames.common import main_strokes, name_of, on, said_places
from ghoststep.session.say.lexicon import HATS
from ghoststep.session.say.places import Spot, Spots
from ghoststep.session.say.selecting import Thing
from ghoststep.session.say.sense import AlreadyError, MissingError, Reading, Sense

_BASIC = {
    "drum",
    "role",
    "soft",
    "hard",
    "nth",
    "act",
    "note",
    "relation",
    "noun",
    "all",
    "stretch",
    "ornament",
    "floor",
    "degree",
}


def readings(c: Clause, sense: Sense) -> Iterator[Reading]:
    if c.kinds() - _BASIC or c.amounts or c.acts("only", "remove", "clear"):
        return
    yield from _doubled(c, sense)
    if _turns(c) or c.all("degree") or c.all("ornament"):
        return
    things = c.things
    drums = [p for p in things if isinstance(p.value, Thing) and p.value.voices]
    if "layer" in c.words and len(drums) == 2 and drums[1].prep == "on":
        drums, things = drums[:1], things[:1]
    roled = next((p.value.role for p in things if isinstance(p.value, Thing) and p.value.role), None)
    if c.one("soft") is not None:
        roled = Role.GHOST
    if c.one("hard") is not None and c.acts("add"):
        roled = Role.ACCENT
    voices = (
        [v for p in drums for v in _to_place(p.value, sense, several=_several_drums(c))]
        if drums
        else ["snare"]
        if roled is Role.GHOST
        else []
    )
    if not voices and _backbeat_alone(c):
        voices, roled = ["snare"], roled or Role.ACCENT
    if c.floor and not voices:
        voices = ["kick"]
    if not voices or (len(drums) == 1 and _thing(drums[0]).nth):
        return
    if drums and any(p.value.nth for p in things if isinstance(p.value, Thing)):
        return
    places = _places(c, sense, voices[0])
    if places is None:
        return
    note = c.one("note")
    whole_rhythm = note is not None and not c.related("before", "after") and not c.acts("add") and len(voices) == 1
    whole_rhythm = whole_rhythm and c.spots is None and c.stretch is None
    named = sum(1 for i in c.items if i.kind == "drum")
    guessed = any(len(_thing(p).voices or ()) > 3 for p in drums) and named == 1  # "toms": which of them?
    likely = 0.55 if guessed else 0.7 if len(voices) == 1 and _lane_is_there(sense, voices[0], places) else 1.0
    phrases: list[str] = []
    for name in voices:
        if whole_rhythm and voice(name).group in ("hat", "cymbals", "perc"):
            phrases += [f"strikes {name} {spots} {bars}".strip() for spots, bars in sense.where.place_rows(places)]
        else:
            phrases += _placed(sense, name, places, roled)
    if not phrases:
        raise AlreadyError(f"{name_of(voices).capitalize()} strikes there already.")
    what = {Role.GHOST: " ghosts", Role.ACCENT: " accents"}.get(roled, "") if roled else ""
    yield Reading(f"{name_of(voices).capitalize()}{what} on {said_places(sense, places)}", tuple(phrases), likely)


def _thing(part: Part) -> Thing:
    assert part.thing is not None
    return part.thing


def _several_drums(c: Clause) -> bool:
    return sum(1 for i in c.items if i.kind == "drum") > 1


def _turns(c: Clause) -> bool:
    """Whether strokes that are there get a role: "make the kick on 3& an accent", "accent the kick on 2&"."""
    if not c.all("role"):
        return False
    first = next((i for i in c.items if i.content), None)
    verb = (
        first is not None
        and c.row[first.first : first.last] == ("accent",)
        and any(p.value.voices for p in c.things if isinstance(p.value, Thing))
    )
    return verb or (c.acts("replace") and not c.acts("add"))


def _doubled(c: Clause, sense: Sense) -> Iterator[Reading]:
    """ "double the kick with the floor tom": another drum wherever one strikes."""
    others = c.related("with")
    if not (c.acts("double") or "double" in c.words) or not others or not c.things:
        return
    first, second = c.things[0].value, others[0].value
    if isinstance(first, Thing) and isinstance(second, Thing) and first.voices and second.voices:
        places = sense.where.by_bar(h.position_ticks for h in sense.hits(c.placed(first)))
        name = _to_place(second, sense)[0]
        yield Reading(
            f"Put {name_of([name])} wherever {name_of(first.voices)} strikes",
            tuple(_placed(sense, name, places, None)),
            1.3,
        )


def _lane_is_there(sense: Sense, name: str, places: dict[int, set[int]]) -> bool:
    """Whether a stroke of its lane stands at each of the places, so that another sound of it is meant."""
    lane = {"ride_bell": ("ride", *HATS), "cross_stick": ("snare",)}.get(name, HATS if name in HATS else ())
    if not lane or name == "hat_closed":
        return False
    return all(any(_taken(sense, v, b, t) for v in lane) for b, ticks in places.items() for t in ticks)


def _backbeat_alone(c: Clause) -> bool:
    spots = c.spots
    return spots is not None and any(s.kind == "backbeats" for s in spots.all) and not c.things and c.kinds() <= {"act"}


def _to_place(thing: object, sense: Sense, *, several: bool = False) -> list[str]:
    """The voices of new strokes: of "hat" the closed one, of "snare and kick" both."""
    assert isinstance(thing, Thing) and thing.voices
    out: list[str] = []
    left = list(thing.voices)
    if set(HATS) <= set(left):
        left = ["hat_closed", *[v for v in left if v not in HATS]]
    groups: dict[str, list[str]] = {}
    for v in left:
        groups.setdefault(voice(v).group, []).append(v)
    if len(left) >= 3 and len(groups) == 1 and not several:  # "toms": one of them, which is a guess
        return [left[0]]
    return out + left


def _placed(sense: Sense, name: str, places: dict[int, set[int]], role: Role | None) -> list[str]:
    """Phrases that put strokes on those places that are free."""
    there = {b: {t for t in ticks if not _taken(sense, name, b, t)} for b, ticks in places.items()}
    if not any(there.values()):
        return []
    as_role = f" as {role.value}" if role is not None and role is not Role.NORMAL else ""
    rows = sense.where.place_rows(places if _some_in_each(there) else {b: t for b, t in there.items() if t})
    return [" ".join(f"place {name} {spots}{as_role} {bars}".split()) for spots, bars in rows]


def _some_in_each(there: dict[int, set[int]]) -> bool:
    return all(there.values())


def _taken(sense: Sense, name: str, bar: int, tick: int) -> bool:
    return sense.pattern.at(sense.where.frame.start_of(bar) + tick, name) is not None


def _places(c: Clause, sense: Sense, name: str) -> dict[int, set[int]] | None:
    """Where new strokes go, as places by bar; None where nothing was said of it."""
    around = [p for p in c.parts if p.relation in ("before", "after", "around")]
    if around:
        return _beside(c, sense, around[0].value, around[0].relation)
    between = c.related("between")
    if between:
        return _between(c, sense, between[0].value)
    with_others = c.related("with")
    if not with_others and "layer" in c.words:
        with_others = [p for p in c.things[1:] if p.prep == "on"]
    spots = _said_spots(c)
    if with_others:
        other = with_others[0].value
        base = other if isinstance(other, Thing) else Thing(spots=other)
        hits = sense.hits(
            Thing(base.voices, base.role, base.backbeat, base.nth, spots or base.spots, c.where, c.stretch)
        )
        if c.all("hard"):  # "where the snare hits hard"
            hits = [h for h in hits if h.role is Role.ACCENT] or hits
        return sense.where.by_bar(h.position_ticks for h in hits)
    if spots is not None:
        sense.check(Thing(spots=spots, bars=c.where))
        places = sense.where_spots(Thing(spots=spots, bars=c.where, stretch=c.stretch))
        return _filled(sense, places, int(str(c.one("note")))) if c.one("note") is not None and spots.beats else places
    if voice(name).kind in ("crash", "splash") and c.where is not None:  # "crash every two bars": on the bar line
        return {b: {0} for b in sense.where.bars(c.where) if 1 <= b <= sense.pattern.bars}
    return None


def _filled(sense: Sense, places: dict[int, set[int]], note: int) -> dict[int, set[int]]:
    """ "sixteenths on the last beat": the notes within these beats."""
    out = {}
    for bar, ticks in places.items():
        unit, step = sense.where.meter(bar).unit_ticks, TICKS_PER_WHOLE // note
        out[bar] = {t + k for t in ticks for k in range(0, unit, step)}
    return out


def _said_spots(c: Clause) -> Spots | None:
    """Spots, and notes that go through a bar ("in eighths")."""
    note = c.one("note")
    row = [s for s in (c.spots,) if s is not None]
    if note is not None and not row:
        row.append(Spots((Spot("note", int(str(note))),)))
    return joined(row)


def _beside(c: Clause, sense: Sense, other: object, relation: str) -> dict[int, set[int]]:
    """A step (or the note that was said) before, after, or on both sides of strokes or spots."""
    frame = sense.where.frame
    if isinstance(other, Thing):
        spots = next((p.value for p in c.parts if isinstance(p.value, Spots) and not p.relation), None)
        hits = sense.hits(Thing(other.voices, other.role, other.backbeat, other.nth, spots, c.where, c.stretch))
        centres = sorted({h.position_ticks for h in main_strokes(hits, relation)})
    else:
        assert isinstance(other, Spots)
        places = sense.where_spots(Thing(spots=other, bars=c.where, stretch=c.stretch))
        centres = [frame.start_of(b) + t for b, ticks in places.items() for t in sorted(ticks)]
    note = c.one("note")
    grid = sense.pattern.grid
    step = TICKS_PER_WHOLE // int(str(note)) if note is not None else step_ticks(max(grid, 16) if grid % 3 else grid)
    sides = {"before": (-1,), "after": (1,), "around": (-1, 1)}[relation]
    ticks = [t + side * step for t in centres for side in sides]
    return sense.where.by_bar(t for t in ticks if 0 <= t < sense.pattern.length_ticks)


def _between(c: Clause, sense: Sense, other: object) -> dict[int, set[int]] | None:
    """In the middle between neighbours of a voice."""
    if not isinstance(other, Thing):
        return None
    hits = sense.hits(Thing(other.voices, other.role, other.backbeat, other.nth, None, c.where, c.stretch))
    row = sorted({h.position_ticks for h in hits})
    gaps = [b - a for a, b in pairwise(row)]
    if not gaps or min(gaps) < 2 * step_ticks(64):
        raise MissingError("There is no room between these.")
    usual = min(gaps)
    middles = [a + usual // 2 for a in row if (a + usual in row) or a == row[-1]]
    return sense.where.by_bar(t for t in middles if t < sense.pattern.length_ticks)


def only(c: Clause, sense: Sense) -> Iterator[Reading]:
    """ "kick only on 1", "hats only on the ands", "only hats in bar 3", "just the kick for the first two beats"."""
    if (
        not c.acts("only")
        or c.kinds() - {"act", "drum", "role", "note", "nth", "all", "stretch", "relation", "filler"}
        or c.amounts
    ):
        return
    things = [p.value for p in c.things if isinstance(p.value, Thing)]
    if not things or (not things[0].named and not c.spots):
        return
    thing = things[0]
    if not thing.voices and thing.role is None and not thing.backbeat and c.spots is not None:
        return
    spots = _said_spots(c)
    if spots is not None and thing.voices and not thing.role and not c.stretch:
        voices = _to_place(thing, sense)
        places = sense.where_spots(Thing(spots=spots, bars=c.where))
        phrases = tuple(f"strikes {v} {s} {b}".strip() for v in voices for s, b in sense.where.place_rows(places))
        yield Reading(f"{name_of(voices).capitalize()} only on {said_places(sense, places)}", phrases, 1.2)
        return
    if thing.nth and thing.voices and c.where is None and c.stretch is None and spots is None:
        every = thing.nth[0].every
        mine = sense.hits(Thing(thing.voices))
        stay = {h.key for h in (mine[::every] if every else sense.where.hits(thing))}  # the first is among them
        gone = [h for h in mine if h.key not in stay]
        yield Reading(f"Fewer {name_of(thing.voices)}", on(sense, "remove", gone), 1.1)
        return
    kept = sense.where.hits(Thing(thing.voices, thing.role, thing.backbeat, thing.nth, spots, c.where, c.stretch))
    if not kept:
        raise MissingError(f"There is no {name_of(thing.voices)} there that could stay.")
    scope = Thing(None, None, False, (), None, c.where, c.stretch)
    if thing.role is not None and thing.voices is None:
        scope = Thing(tuple({h.voice for h in kept}), None, False, (), None, c.where, c.stretch)
    keys = {h.key for h in kept}
    gone = [h for h in sense.where.hits(scope) if h.key not in keys]
    if not gone:
        raise MissingError("Nothing else is there.")
    yield Reading(
        f"Keep only {name_of(thing.voices)}{_there(c, sense)}",
        on(sense, "remove", gone),
        1.1,
    )


def _there(c: Clause, sense: Sense) -> str:
    bars = sense.where.bar_words(sense.where.bars(c.where)) if c.where else ""
    return f" in {bars}" if bars else ""
