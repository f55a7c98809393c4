"""What changes no stroke, or the whole at once: playing, muting, taking back, asking, fills, styles, players."""

from collections.abc import Iterator

from ghoststep.craft.styles import STYLES
from ghoststep.music.kit import voice
from ghoststep.session.say.clause import Clause
from ghoststep.session.say.frames.common import name_of
from ghoststep.session.say.lexicon import HATS
from ghoststep.session.say.places import Spots
from ghoststep.session.say.selecting import Thing
from ghoststep.session.say.sense import MissingError, Reading, Sense
from ghoststep.session.words import runs

_ALONE = {
    "undo": ("Take the last step back", "undo"), "redo": ("Do again what was taken back", "redo"),
    "stop playing": ("Stop", "stop"), "unmute": ("Every voice is heard again", "unmute"),
    "letters": ("Find the form", "letters"), "count in": ("A bar of clicks before it plays", "count-me-in on"),
    "lead left": ("Played left-handed", "handed left-handed"),
    "lead right": ("Played right-handed", "handed right-handed"),
    "lead open": ("Played open-handed", "handed open-handed"), "swap hands": ("The hands change", "swap on everything"),
    "simplify": ("A step easier", "simplify"),
}  # fmt: skip


def alone(c: Clause, sense: Sense) -> Iterator[Reading]:
    """Acts that need nothing else."""
    if (
        c.kinds() - {"act", "all", "noun", "limb"}
        or (c.parts and c.one("all") is None)
        or c.bars
        or c.stretch
        or c.amounts
    ):
        return
    said = [str(a) for a in c.all("act")]
    for act in said:
        if act in _ALONE:
            about, phrase = _ALONE[act]
            yield Reading(about, (phrase,), 1.3 if act != "stop playing" else 1.1)
            return


def heard(c: Clause, sense: Sense) -> Iterator[Reading]:
    """ "play bars 2 to 4", "mute the kick", "solo the snare", "just the hands", "play it at half speed"."""
    kinds = c.kinds()
    if kinds - {"act", "drum", "all", "noun", "amount", "degree", "compared", "relation", "nth", "note"}:
        return
    if "note" in kinds and "half" not in c.words:
        return
    things = [p.value for p in c.things if isinstance(p.value, Thing) and p.value.voices]
    voices = [v for t in things for v in t.voices or ()]
    others = [v for p in c.related("except") if p.thing is not None for v in p.thing.voices or ()]
    if c.acts("mute") and c.all("all") and others:
        yield Reading(f"{name_of(others).capitalize()} heard alone", (f"solo {' '.join(_short(others, sense))}",), 1.3)
        return
    if c.acts("mute", "solo") and voices and not c.bars and c.spots is None and not c.acts("remove"):
        verb = "solo" if c.acts("solo") else "mute"
        words = " ".join(_short(voices, sense))
        yield Reading(
            f"{name_of(_there(voices, sense)).capitalize()} {'heard alone' if verb == 'solo' else 'not heard'}",
            (f"{verb} {words}",),
            1.3,
        )
        return
    if (
        c.acts("only")
        and voices
        and not c.bars
        and c.spots is None
        and c.stretch is None
        and kinds <= {"act", "drum"}
        and ({"hands", "feet"} & c.words)
    ):
        there = _there(voices, sense)
        feet = "feet" in c.words
        words = " ".join(_short(there, sense)) if feet else " ".join(v for v in ("kick", "hat_pedal"))
        yield Reading(
            f"Only the {'feet' if feet else 'hands'} heard", (f"solo {words}" if feet else f"mute {words}",), 1.4
        )
        return
    speed = _speed(c)
    if c.acts("play") and speed is not None and not voices:
        yield Reading(f"It plays at {speed:g} % of the tempo, which stays", (f"play-speed {speed:g}%",), 1.2)
        return
    if "listen" in c.words and c.way("tempo"):
        yield Reading("It plays at 75 % of the tempo, which stays", ("play-speed 75%",), 1.3)
        return
    if (
        c.acts("play", "repeat")
        and not voices
        and c.spots is None
        and not c.amounts
        and not c.all("compared")
        and kinds <= {"act", "all", "nth"}
    ):
        if c.where is not None and not c.where.each:
            missing = sense.where.missing(c.where)
            if missing:
                raise MissingError(f"There is no bar {missing[0]}: this groove has {sense.pattern.bars}.")
            found = sorted(sense.where.bars(c.where))
            if len(c.bars) > 1 and c.acts("repeat") and not c.acts("play"):
                found = list(range(found[0], found[-1] + 1))
            rows = f"{found[0]}-{found[-1]}" if len(found) > 1 else f"{found[0]}"
            yield Reading(f"Play bar{'s' if len(found) > 1 else ''} {rows}", (f"play {rows}",), 1.05)
        elif c.acts("play", "repeat"):
            yield Reading("Play", ("play",), 1.0)


def _speed(c: Clause) -> float | None:
    percent = next((a.value for a in c.amounts if a.unit == "%"), None)
    if percent is not None and 25 <= percent <= 200:
        return percent
    if c.one("noun") == "tempo" and "half" in c.words:
        return 50.0
    return None


def _there(voices: list[str], sense: Sense) -> list[str]:
    found = [v for v in voices if v in sense.pattern.voices]
    return found or voices


def _short(voices: list[str], sense: Sense) -> list[str]:
    if set(HATS) <= set(voices):
        return ["hat", *[v for v in voices if v not in HATS]]
    return _there(voices, sense)


def describing(c: Clause, sense: Sense) -> Iterator[Reading]:
    if c.acts("describe") and not c.kinds() - {"act", "drum", "noun", "all", "nth", "role", "unknown"}:
        bars = sorted(b for b in sense.where.bars(c.where) if 1 <= b <= sense.pattern.bars) if c.where else []
        words = runs(bars).replace(" ", "")
        yield Reading(f"Say what is there{' in bar ' + words if bars else ''}", (f"describe {words}".strip(),), 1.2)


def checking(c: Clause, sense: Sense) -> Iterator[Reading]:
    """ "could a beginner play this", "make it playable at 150"."""
    if c.acts("make playable"):
        number = next((a.value for a in c.amounts if a.unit in ("", "bpm")), None)
        at = f" at {number:g}" if number is not None else ""
        yield Reading(f"Made playable{at}", (f"playable{at}",), 1.3)
        return
    asked = c.acts("check") or (c.one("player") is not None and {"play", "can", "could"} & c.words)
    if asked and not c.bars:
        if c.kinds() - {"act", "player", "noun", "all", "nth"}:
            return
        player = c.one("player")
        yield Reading(
            f"Check whether {'a ' + str(player) + ' drummer' if player else 'it'} can play it",
            (f"check {player or ''}".strip(),),
            1.3,
        )


def fills(c: Clause, sense: Sense) -> Iterator[Reading]:
    """ "fill at the end", "a two beat fill in bar 2", "fill over two beats landing on a crash"."""
    if not c.acts("fill") or c.kinds() - {
        "act",
        "drum",
        "amount",
        "noun",
        "nth",
        "relation",
        "stretch",
        "soft",
        "hard",
        "degree",
    }:
        return
    if c.acts("remove"):
        return
    if c.acts("crescendo"):
        return
    under = [
        v
        for p in c.parts
        if p.thing is not None and (c.related("with") and p.thing.voices)
        for v in p.thing.voices or ()
    ]
    under = [v for v in under if voice(v).limb not in "RL"]  # "kick under the fill"
    if c.related("with") and not under and "under" in c.words:
        return
    last = sense.pattern.bars
    bar = last
    landing = "landing" in c.words or "land" in c.words
    before = c.related("before") or "before" in c.words
    if c.where is not None and c.where.step:  # "a fill every second bar": at the ends of the pairs
        ends = range(c.where.step, last + 1, c.where.step)
        if not ends:
            raise MissingError(f"The groove has {last} bars.")
        words = f"A fill in bar{'s' if len(ends) > 1 else ''} {runs(ends)}"
        yield Reading(words, tuple(f"fill-in 1 in {b}" for b in ends), 1.2)
        return
    if c.where is not None:
        found = sorted(sense.where.bars(c.where))
        if sense.where.missing(c.where):
            raise MissingError(f"There is no bar {found[-1]}: this groove has {last}.")
        bar = found[-1] - 1 if before else found[-1]
        if bar < 1:
            bar = last
    meter = sense.where.meter(bar)
    beats = next((a.value for a in c.amounts if a.unit == "beats"), None)
    if any(a.unit == "bars" for a in c.amounts):
        beats = meter.numerator
    if c.stretch is not None:
        low, high = c.stretch.ticks(meter)
        beats = (high - low) / meter.unit_ticks
    spots = c.spots
    if beats is None and isinstance(spots, Spots) and spots.beats:
        beats = (
            float(meter.numerator - min(s.number for s in spots.all) + 1)
            if all(s.number > 0 for s in spots.all)
            else 1.0
        )
    beats = beats if beats is not None else _said_beats(c) or 1.0
    things = [p.value for p in c.things if isinstance(p.value, Thing) and p.value.voices]
    voices: list[str] = []
    land = ""
    for t in things:
        if landing and t.voices and t.voices[0] == "crash":
            land = " landing crash"
        else:
            voices += [v for v in t.voices or () if v not in voices and v not in under]
    kept = [v for v in voices if voice(v).limb not in "RL"]
    voices = [v for v in voices if v not in kept]
    keep = f" keep {' '.join(dict.fromkeys([*kept, *under]))}" if kept or under else ""
    over = f" over {' '.join(voices)}" if voices else ""
    yield Reading(
        f"A fill over the last {beats:g} beat{'s' if beats != 1 else ''} of bar {bar}",
        (f"fill-in {beats:g} in {bar}{over}{land}{keep}",),
        1.2,
    )


def _said_beats(c: Clause) -> float | None:
    """ "over two beats": a bare number with the word behind it."""
    row = [i for i in c.items if i.kind == "spots"]
    return float(row[0].value.all[0].number) if row and "beats" in c.words and row[0].value.all[0].number > 0 else None


def styles(c: Clause, sense: Sense) -> Iterator[Reading]:
    """ "start a bossa", "give me a disco beat"; and feels of players."""
    feel = c.one("feel")
    if feel is not None and not c.kinds() - {"feel", "noun", "act"}:
        yield Reading(f"Played with the feel '{feel}'", (f"feel {feel}",), 1.3)
    style = c.one("style")
    if style is None or c.kinds() - {"style", "act", "noun", "all", "nth"} or c.bars:
        return
    if not c.acts("start", "add", "replace") and style == "shuffle":
        return
    if style not in {s.name for s in STYLES}:
        return
    yield Reading(
        f"Start from a plain {str(style).replace('-', ' ')}",
        (f"start {style}",),
        1.0 if c.acts("start", "add") and "make" not in c.words else 0.55,  # all there is would go
    )


def times(c: Clause, sense: Sense) -> Iterator[Reading]:
    """Double time and half time, of which there are two each."""
    tempo = sense.context.document.groove.tempo.main_bpm
    if c.acts("double time"):
        yield Reading("The same notes, half as long, against the same beat", ("rewrite half",), 0.8)
        yield Reading(f"Twice the tempo: {2 * tempo:g} BPM", (f"tempo {2 * tempo:g}",), 0.78)
    elif c.acts("half time"):
        yield Reading("The same notes, twice as long, against the same beat", ("rewrite double",), 0.8)
        yield Reading(f"Half the tempo: {tempo / 2:g} BPM", (f"tempo {tempo / 2:g}",), 0.78)
