"""When strokes come: late and early in ms and degrees, swing, tempo, meter, how strictly and how humanly."""

from collections.abc import Iterator

from ghoststep.music.kit import voice
from ghoststep.session.say.clause import Clause
from ghoststep.session.say.frames.common import chosen, name_of, named, on, on_chosen, ornament_word
from ghoststep.session.say.lexicon import HATS
from ghoststep.session.say.selecting import Thing
from ghoststep.session.say.sense import MissingError, Reading, Sense

_MEANT = {"note", "act", "drum", "role", "all", "compared", "degree", "amount", "noun", "too", "nth", "stretch"}
_MOST_MS = 200.0


def readings(c: Clause, sense: Sense) -> Iterator[Reading]:
    """ "snare 10 ms late", "lay the snare back a little", "push the hats", "everything a touch behind"."""
    way = c.way("late")
    if way == 0 or c.kinds() - _MEANT or c.acts("remove", "only", "copy") or c.related("before", "around"):
        return
    if ornament_word(c):
        return
    mine = chosen(c, sense)
    if mine and not c.kinds() - {"compared", "degree", "act", "too", "amount"}:
        ms = next((a.value for a in c.amounts if a.unit in ("ms", "")), None)
        by = ms if ms is not None else sense.degrees.of("late_ms" if way > 0 else "early_ms", c.degree)
        yield from on_chosen(sense, f"nudge {way * by:+g} ms", mine)
        return
    if c.one("note") is not None:
        yield from _by_note(c, sense, way)
        return
    amount = next((a for a in c.amounts if a.unit in ("ms", "")), None)
    value = amount.value if amount is not None else _number(c)
    if amount is not None and amount.sign < 0:
        way, value = -way, amount.value
    if c.words & _COMPLAINED and amount is None and not c.all("too") and not c.degree:
        yield from _complained(c, sense, way)
        return
    kind = "late_ms" if way > 0 else "early_ms"
    tempo = sense.context.document.groove.tempo.main_bpm
    by = value if value is not None else round(sense.degrees.of(kind, c.degree) * min(max(100 / tempo, 0.6), 1.4))
    if by > _MOST_MS:
        raise MissingError(f"{by:g} ms is more than a stroke leans: at most {_MOST_MS:g}.")
    ms = way * by
    further = value is None or _further(c)  # a degree counts from what is there, a number from the grid
    where = (
        f"{by:g} ms {'later' if way > 0 else 'earlier'} than now"
        if further
        else f"{by:g} ms {'late' if way > 0 else 'early'}"
    )
    things = [p.value for p in c.things if isinstance(p.value, Thing)]
    spots = c.spots if value is None or amount is not None else _other_spots(c)
    than = "than" in c.words
    if than and len([p for p in c.parts if not isinstance(p.value, Thing)]) >= 2:
        spots = next(p.spots for p in c.parts if p.spots is not None)
    if (not things and c.one("all") is not None) or not (things or spots or c.where or c.stretch):
        if c.one("all") is None and not things:
            return
        phrase = f"placement {'behind' if way > 0 else 'ahead'} by {by:g} ms"
        yield Reading(f"Everything {where}", (phrase,))
        return
    thing = things[0] if things else Thing(backbeat=bool(spots and any(s.kind == "backbeats" for s in spots.all)))
    if thing.voices is None and thing.role is None and not thing.backbeat and not thing.nth and spots is None:
        yield Reading(f"Everything {where}", (f"placement {'behind' if way > 0 else 'ahead'} by {by:g} ms",))
        return
    if thing.voices and not (thing.role or thing.nth or spots or c.where or c.stretch):
        voices = [v for t in things for v in t.voices or ()]
        yield Reading(f"{name_of(voices).capitalize()} {where}", tuple(_leans(sense, voices, ms, relative=further)))
        return
    aim = Thing(thing.voices, thing.role, thing.backbeat, thing.nth, spots, c.where, c.stretch)
    hits = sense.hits(aim)
    yield Reading(f"{named(sense, aim, hits).capitalize()} {where}", on(sense, f"nudge {ms:+g} ms", hits))


_COMPLAINED = {"is", "are", "drags", "rushes", "sounds"}


def _complained(c: Clause, sense: Sense, way: int) -> Iterator[Reading]:
    """ "the hats are rushing": to mend that, or to have it so; nobody can tell."""
    thing = next((p.thing for p in c.things), None)
    if thing is None or not thing.voices:
        return
    for sign, likely in ((-way, 0.8), (way, 0.75)):
        ms = sign * sense.degrees.of("late_ms" if sign > 0 else "early_ms", "")
        words = f"{name_of(thing.voices).capitalize()} {abs(ms):g} ms {'later' if ms > 0 else 'earlier'} than now"
        yield Reading(words, tuple(_leans(sense, list(thing.voices), ms, relative=True)), likely)


def _by_note(c: Clause, sense: Sense, way: int) -> Iterator[Reading]:
    """ "shift the kick an eighth later": to other spots of the grid."""
    thing = c.thing()
    if thing is None:
        return
    hits = sense.hits(thing)
    note = c.one("note")
    words = f"{named(sense, thing, hits).capitalize()} moved by 1/{note}, {'later' if way > 0 else 'earlier'}"
    yield Reading(words, on(sense, f"move {'+' if way > 0 else '-'}1/{note}", hits), 1.1)


def _further(c: Clause) -> bool:
    return bool({"further", "even", "more", "earlier", "later"} & c.words) and not c.amounts


def _number(c: Clause) -> float | None:
    """ "early by 5": a number behind "by", which is no beat."""
    for part in c.parts:
        if not isinstance(part.value, Thing) and part.prep == "by":
            return float(part.value.all[0].number)
    return None


def _other_spots(c: Clause):  # type: ignore[no-untyped-def]
    from ghoststep.session.say.clause import joined
    from ghoststep.session.say.places import Spots

    return joined([p.value for p in c.parts if isinstance(p.value, Spots) and p.prep != "by" and not p.relation])


def _leans(sense: Sense, voices: list[str], ms: float, *, relative: bool) -> Iterator[str]:
    """Leans of voices, of a group in one word; further from where they are, or to this."""
    feel = sense.context.document.groove.feel
    words: list[str] = []
    left = [v for v in voices if v in sense.where.meant(voices)]
    if set(HATS) <= set(left):
        words.append("hat")
        left = [v for v in left if v not in HATS]
    toms = [v for v in left if voice(v).group == "toms"]
    if len(toms) == 4:
        words.append("toms")
        left = [v for v in left if v not in toms]
    for word in [*words, *left]:
        first = {"hat": "hat_closed", "toms": "tom_high"}.get(word, word)
        total = feel.lean_of(first) + ms if relative else ms
        yield f"lean {word} {max(-_MOST_MS, min(_MOST_MS, total)):g}"


def tempo(c: Clause, sense: Sense) -> Iterator[Reading]:
    """ "faster", "90 bpm", "5 bpm faster", "slow down to 96 over the last bar", "half the tempo"."""
    way = c.way("tempo")
    noun = c.one("noun") == "tempo"
    bpm = next((a for a in reversed(c.amounts) if a.unit in ("bpm", "")), None)
    if not way and not noun and not (bpm and bpm.unit == "bpm"):
        return
    if c.kinds() - {"act", "compared", "degree", "amount", "noun", "all", "too", "nth"} or (
        c.things and c.one("all") is None
    ):
        return
    if c.one("noun") not in (None, "tempo") or (c.acts("fill", "remove", "play") and not c.acts("replace")):
        return
    now = sense.context.document.groove.tempo.main_bpm
    share = c.one("degree")
    if share in ("twice", "half") and not bpm:
        share_of = 2.0 if share == "twice" else 0.5
        yield Reading(
            f"The tempo {'twice' if share == 'twice' else 'half'} as fast: {now * share_of:g} BPM",
            (f"tempo {now * share_of:g}",),
        )
        return
    number = bpm.value if bpm is not None else _to_number(c)
    percent = next((a.value for a in c.amounts if a.unit == "%"), None)
    if percent is not None:
        by = round(now * percent / 100, 1)
        yield Reading(f"{percent:g} % {'faster' if way >= 0 else 'slower'}", (f"tempo {by if way >= 0 else -by:+g}",))
        return
    bars = sense.where.bar_words(sense.where.bars(c.where)) if c.where else ""
    if c.where and sense.where.missing(c.where):
        raise MissingError(f"There is no bar {sense.where.missing(c.where)[0]}.")
    if not way and {"up", "down"} & c.words:
        way = 1 if "up" in c.words else -1
    relative = bpm is not None and way and not _says_to(c) and number is not None and number < now * 0.6
    relative = relative or (way != 0 and _says_by(c))
    if number is not None and not relative:
        if not 10 <= number <= 960:
            raise MissingError(f"{number:g} BPM is no tempo: 10 to 960.")
        start = _from_number(c, number)
        if bars:
            yield Reading(
                f"From {start or now:g} to {number:g} BPM over {bars}",
                (f"tempo {start or now:g} to {number:g} {bars}",),
            )
        else:
            yield Reading(f"{number:g} BPM", (f"tempo {number:g}",))
        return
    if not way:
        return
    by = number if number is not None else max(1.0, round(now * sense.degrees.of("tempo_percent", c.degree) / 100))
    yield Reading(f"{by:g} BPM {'faster' if way > 0 else 'slower'}", (f"tempo {way * by:+g} {bars}".strip(),), 1.0)


def _says_to(c: Clause) -> bool:
    return "to" in c.words


def _says_by(c: Clause) -> bool:
    return "by" in c.words


def _numbers(c: Clause) -> list[float]:
    out = [(a.value) for a in c.amounts if a.unit in ("", "bpm")]
    for part in c.parts:
        if not isinstance(part.value, Thing):
            out += [float(s.number) for s in part.value.all if s.kind == "beat" and s.number > 0]
    return out


def _to_number(c: Clause) -> float | None:
    found = _numbers(c)
    return found[-1] if found else None


def _from_number(c: Clause, to: float) -> float | None:
    found = [n for n in _numbers(c) if n != to]
    return found[0] if found and "from" in c.words else None


def swing(c: Clause, sense: Sense) -> Iterator[Reading]:
    """ "more swing", "58% swing", "swing the eighths like a shuffle", "sixteenths swung a little", "straight"."""
    way = c.way("swing")
    straight = c.acts("straight") and not c.acts("humanise")
    shuffled = "shuffle" in c.words or "shuffled" in c.words
    if c.one("note") == 12 and c.one("noun") == "feel" and not c.things:
        yield Reading("Eighths swung like a triplet", ("swing 8ths triplet",))
        return
    if not (way or straight or shuffled) or c.kinds() - {
        "act",
        "compared",
        "degree",
        "amount",
        "note",
        "drum",
        "all",
        "noun",
        "style",
        "unknown",
        "relation",
        "role",
    }:
        return
    feel = sense.context.document.groove.feel
    note = c.one("note")
    unit = f"{note}ths " if note in (8, 16) else ""
    triplets = note == 12
    unit_now = 8 if note == 8 else 16 if note == 16 else feel.swing.unit
    drums = [p.value for p in c.things if isinstance(p.value, Thing) and p.value.voices]
    whose = f" for {_group(drums[0].voices)}" if drums and drums[0].voices else ""
    about = f" of {name_of(drums[0].voices)}" if drums else ""
    percent = next((a.value for a in c.amounts if a.unit in ("%", "")), None)
    if percent is not None:
        if not 50 <= percent <= 80:
            raise MissingError(f"{percent:g} % is no swing: 50 is straight, 67 a triplet, 80 the most.")
        yield Reading(f"Swing{about} {percent:g} %", (f"swing {unit}{percent:g}%{whose}",), 1.1)
        return
    if straight and shuffled:
        yield Reading(
            f"Swing{about} 58 %, between straight and shuffled", (f"swing {unit or '16ths '}58%{whose}",), 1.2
        )
        return
    if shuffled or triplets:
        named_unit = f"{note}ths " if note in (8, 16) else ("8ths " if triplets and "eighths" in c.words else "16ths ")
        yield Reading(f"Swing{about} like a triplet", (f"swing {named_unit}triplet{whose}",), 1.0)
        return
    if straight:
        yield Reading(f"Straight{about}", (f"swing {unit}straight{whose}",))
        return
    now = 100 * (feel.swing_of(drums[0].voices[0]).ratio if drums and drums[0].voices else feel.swing.ratio)
    if unit_now != feel.swing.unit:
        now = 50.0
    by = sense.degrees.of("swing_percent", c.degree)
    if way > 0 and now == 50 and c.degree == "" and "more" not in c.words and "some" not in c.words:
        by = 8.0
    target = min(max(now + way * by, 50.0), 75.0)
    yield Reading(f"Swing{about} {target:g} %", (f"swing {unit or f'{unit_now}ths '}{target:g}%{whose}",))


def _group(voices: tuple[str, ...]) -> str:
    return "hat" if set(HATS) <= set(voices) else voices[0]


def strictness(c: Clause, sense: Sense) -> Iterator[Reading]:
    """Humanised, tightened, dead on the grid."""
    if c.kinds() - {"act", "drum", "degree", "all", "compared", "amount", "noun", "relation", "role"} or c.related(
        "before", "after"
    ):
        return
    if c.one("noun") == "elsewhere":
        return
    feel = sense.context.document.groove.feel
    thing = next((p.value for p in c.things if isinstance(p.value, Thing) and p.value.named), None)
    percent = next((a.value for a in c.amounts if a.unit == "%"), None)
    if percent is not None:
        if c.acts("straighten", "tighten") and 0 < percent <= 100:
            hits = sense.hits(thing) if thing is not None else list(sense.pattern.hits)
            yield Reading(f"{percent:g} % of the way to the grid", on(sense, f"pull {percent:g}%", hits))
        return
    if c.acts("straighten"):
        if thing is None:
            yield Reading("Everything dead on the grid", ("straighten",))
        else:
            yield Reading(
                f"{name_of(thing.voices).capitalize()} on the grid", on(sense, "pull 100%", sense.hits(thing))
            )
    elif c.acts("humanise") and thing is None:
        ms = next((a.value for a in c.amounts if a.unit in ("ms", "")), None)
        by = sense.degrees.of("loose_ms", c.degree)
        target = (
            ms
            if ms is not None
            else min(round(feel.loose_ms + by if feel.loose_ms else max(by, 4.0 if not c.degree else by), 1), 20)
        )
        yield Reading(f"Time strays by {target:g} ms as a player's does, touch with it", (f"humanise {target:g}",))
    elif "less" in c.all("degree") and c.one("noun") == "feel":
        yield Reading("Half of what it lies off the grid, lean and swing with it", ("pull 50% with both",))
    elif c.acts("tighten"):
        share = sense.degrees.of("pull_percent", c.degree)
        hits = sense.hits(thing) if thing is not None else list(sense.pattern.hits)
        phrases = on(sense, f"pull {share:g}%", hits)
        if feel.loose_ms and thing is None:
            phrases += (f"loose {feel.loose_ms * (1 - share / 100):.1f}",)
        yield Reading(f"Tighter by {share:g} %", phrases)


def meter(c: Clause, sense: Sense) -> Iterator[Reading]:
    found = c.one("meter")
    if found is None or c.kinds() - {"meter", "act", "all", "noun", "nth"}:
        return
    bars = sense.where.bar_words(sense.where.bars(c.where)) if c.where else ""
    if c.where and sense.where.missing(c.where):
        raise MissingError(f"There is no bar {sense.where.missing(c.where)[0]}.")
    yield Reading(f"{found}{' in ' + bars if bars else ''}", (f"meter {found} {bars}".strip(),))
