"""How hard strokes are struck: louder and softer by degrees, numbers and dB, evened, growing, which drum leads."""

from collections.abc import Iterator

from ghoststep.music.pattern import Hit
from ghoststep.music.touch import Role
from ghoststep.session.say.clause import Clause
from ghoststep.session.say.frames.common import chosen, named, on, on_chosen
from ghoststep.session.say.frames.taking import without
from ghoststep.session.say.places import Nth
from ghoststep.session.say.selecting import Thing
from ghoststep.session.say.sense import MissingError, Reading, Sense

_MEANT = {
    "act",
    "drum",
    "role",
    "all",
    "nth",
    "compared",
    "degree",
    "amount",
    "relation",
    "soft",
    "hard",
    "too",
    "stretch",
    "noun",
    "player",
}
_LEADS = {
    "kick": "kick-led",
    "snare": "snare-led",
    "hat_closed": "hat-led",
    "hat_half": "hat-led",
    "hat_open": "hat-led",
}


def readings(c: Clause, sense: Sense) -> Iterator[Reading]:
    way = _way(c)
    signed = next((a for a in c.amounts if a.sign and a.unit in ("", "dB")), None)
    if way == 0 and signed is not None and c.things:
        way = signed.sign
    mine = chosen(c, sense)
    if (
        way
        and mine
        and not c.kinds() - {"compared", "degree", "amount", "act", "hard", "soft", "too"}
        and not c.amounts
    ):
        yield from on_chosen(sense, f"velocity {way * sense.degrees.of('velocity', c.degree):+g}", mine)
        return
    if way == 0 or c.kinds() - _MEANT or c.related("before", "after"):
        return
    if c.acts("remove", "clear", "only", "fill", "tighten", "humanise", "even", "open"):
        return
    thing = c.thing() or (Thing(bars=c.where, stretch=c.stretch, spots=c.spots))
    than = _compared_with(c)
    likely = 1.0 if thing.named or c.one("all") is not None else 0.7
    hits = _meant(c, sense, thing, than)
    for part in c.related("except"):
        hits = without(sense, thing, hits, part.value, c)
    if not hits:
        return
    amount = next(iter(c.amounts), None)
    about = "louder" if way > 0 else "softer"
    if amount is not None and amount.unit == "dB":
        verb = f"loudness {way * amount.value:+g} dB"
        yield Reading(
            f"{named(sense, thing, hits).capitalize()} {amount.value:g} dB {about}", on(sense, verb, hits), likely
        )
        return
    if amount is not None and amount.unit == "%":
        share = 100 + way * amount.value
        yield Reading(
            f"{named(sense, thing, hits).capitalize()} {amount.value:g} % {about}",
            on(sense, f"scale {share:g}%", hits),
            likely,
        )
        return
    if amount is not None and amount.unit not in ("",):
        return
    if c.all("degree") and c.one("degree") in ("twice", "half"):
        share = 200 if c.one("degree") == "twice" else 50
        if way < 0:
            share = 10000 // share
        yield Reading(
            f"{named(sense, thing, hits).capitalize()} {'twice as' if share == 200 else 'half as'} loud",
            on(sense, f"scale {share}%", hits),
            likely,
        )
        return
    by = amount.value if amount is not None else sense.degrees.of("velocity", c.degree)
    yield Reading(
        f"{named(sense, thing, hits).capitalize()} {about} by {by:g}",
        on(sense, f"velocity {way * by:+g}", hits),
        likely,
    )


def _way(c: Clause) -> int:
    """1 louder, -1 softer, 0 neither was said."""
    if way := c.way("loud"):
        return way
    if c.one("degree") == "half" and c.one("noun") == "loudness":
        return 1  # "at half volume": half of what it is
    if c.one("degree") in ("twice", "half") and (c.all("hard") or c.all("soft")):  # "twice as loud"
        return 1 if c.all("hard") else -1
    return 0


def _compared_with(c: Clause) -> bool:
    return "than" in c.words


def _meant(c: Clause, sense: Sense, thing: Thing, than: bool) -> list[Hit]:
    """The hits that change. Of "the second kick weaker than the first" the second of each bar, of "on 4 louder than on
    2" the one that is named first."""
    if than:
        nths = [n for p in c.things if isinstance(p.value, Thing) for n in p.value.nth]
        if len(nths) >= 2:
            first = Nth(nths[0].at, nths[0].count, nths[0].every, scope="bar")
            return sense.hits(Thing(thing.voices, thing.role, False, (first,), None, c.where))
        parts = [p for p in c.parts if not isinstance(p.value, Thing)]
        if len(parts) >= 2 and not isinstance(parts[0].value, Thing):
            return sense.hits(Thing(thing.voices, thing.role, False, (), parts[0].value, c.where))
    return sense.hits(thing)


def set_to(c: Clause, sense: Sense) -> Iterator[Reading]:
    """ "ghosts at 25", "backbeats to 120", "velocity of the kick 100", "hats to 70"."""
    amount = next((a for a in c.amounts if a.unit == ""), None)
    number = _bare_number(c) if amount is None else amount.value
    if amount is not None and amount.sign:
        return
    if number is not None and {"up", "down"} & c.words:
        return
    if (
        number is None
        or c.all("compared")
        or c.all("too")
        or c.kinds() - {"act", "drum", "role", "all", "nth", "noun", "amount"}
    ):
        return
    if c.one("noun") not in (None, "velocity", "loudness") or (
        c.acts("add", "remove", "only", "fill", "make playable") and not c.acts("replace")
    ):
        return
    mine = [p.value for p in c.things if isinstance(p.value, Thing)]
    spots = c.spots
    if spots is not None and _bare_number(c) is not None:
        spots = None
    if not mine:
        if c.spots is None or not any(s.kind == "backbeats" for s in c.spots.all):
            return
        thing = Thing(backbeat=True, bars=c.where)
    else:
        thing = Thing(mine[0].voices, mine[0].role, mine[0].backbeat, mine[0].nth, spots, c.where, c.stretch)
    if not 1 <= number <= 127:
        raise MissingError(f"{number:g} is no velocity: they go from 1 to 127.")
    hits = sense.hits(thing)
    yield Reading(
        f"{named(sense, thing, hits).capitalize()}: velocity {number:g}", on(sense, f"velocity {number:g}", hits), 1.0
    )


def _bare_number(c: Clause) -> float | None:
    """A number that looks like a beat and can be none: 20 and more."""
    for part in c.parts:
        if not isinstance(part.value, Thing):
            for s in part.value.all:
                if s.kind == "beat" and s.number >= 17:
                    return float(s.number)
    return None


def even(c: Clause, sense: Sense) -> Iterator[Reading]:
    if not c.acts("even", "uneven") or c.kinds() - {
        "act",
        "drum",
        "role",
        "all",
        "nth",
        "degree",
        "noun",
        "soft",
        "hard",
    }:
        return
    thing = c.thing() or Thing(bars=c.where)
    hits = sense.hits(thing)
    share = {"tiny": 30, "bit": 40, "": 100, "lot": 80}[c.degree]
    if c.acts("uneven"):
        share = -40
    yield Reading(
        f"{named(sense, thing, hits).capitalize()} {'more' if share > 0 else 'less'} even",
        on(sense, f"even {share}%", hits),
    )


def growing(c: Clause, sense: Sense) -> Iterator[Reading]:
    """ "crescendo on the hats in bar 4", "fade out the hats", "from soft to loud over the last bar"."""
    up, down = c.acts("crescendo"), c.acts("decrescendo")
    if not (up or down) or c.kinds() - {
        "act",
        "drum",
        "role",
        "all",
        "stretch",
        "soft",
        "hard",
        "noun",
        "nth",
        "compared",
    }:
        return
    thing = c.thing() or Thing(bars=c.where, stretch=c.stretch, spots=c.spots)
    hits = sense.hits(thing)
    verb = "crescendo 75% 115%" if up else "crescendo 115% 75%"
    yield Reading(
        f"{named(sense, thing, hits).capitalize()} {'from soft to loud' if up else 'from loud to soft'}",
        on(sense, verb, hits),
        1.1,
    )


def leading(c: Clause, sense: Sense) -> Iterator[Reading]:
    if not c.all("lead") or c.kinds() - {"act", "drum", "lead", "noun", "compared"}:
        return
    thing = c.thing()
    if thing is None or not thing.voices:
        return
    way = _LEADS.get(thing.voices[0])
    if way is None:
        raise MissingError("Kick, snare or hat can lead.")
    yield Reading(f"The {way.split('-')[0]} leads, as it is heard", (f"balance {way}",), 1.2)


def accents(c: Clause, sense: Sense) -> Iterator[Reading]:
    """ "accent the first hat of each beat", "accents on the ands of the hat", "make the second kick a ghost"."""
    roles = c.all("role")
    mine_chosen = sense.context.hits if not (c.bars or c.stretch or c.spots) else []
    only_role = all(isinstance(p.value, Thing) and p.value.voices is None and not p.value.nth for p in c.parts)
    if roles and mine_chosen and only_role and c.acts("replace", "start") and not c.kinds() - {"act", "role", "noun"}:
        yield from on_chosen(sense, f"role {roles[-1]}", mine_chosen)
        return
    turned = c.acts("replace")
    if not roles or c.kinds() - {"act", "drum", "role", "nth", "noun", "stretch", "note"} or c.amounts:
        return
    role = Role(str(roles[-1]))
    mine = [p.value for p in c.things if isinstance(p.value, Thing) and p.value.voices]
    if (
        not mine
        or c.related("before", "after", "around", "between", "with")
        or (c.acts("add", "remove", "only") and not turned)
    ):
        return
    first = mine[0]
    spots = c.spots
    if role is Role.GHOST and not turned:
        return
    if role is Role.GHOST and spots is None and not first.nth:
        return
    voices = first.voices
    hits = sense.hits(
        Thing(
            voices,
            None,
            False,
            tuple(n for m in [p.value for p in c.things if isinstance(p.value, Thing)] for n in m.nth),
            spots,
            c.where,
            c.stretch,
        )
    )
    yield Reading(
        f"{named(sense, first, hits).capitalize()}: {role.value}s",
        on(sense, f"role {role.value}", hits),
        1.0 if role is Role.ACCENT else 0.95,
    )
