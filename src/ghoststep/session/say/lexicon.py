"""The words of the trade and of everyday talk, in tables: what they stand for in a sentence about a groove.

A key may be several words. What is here is heard everywhere; nothing else in this package knows a word.
"""

from dataclasses import dataclass
from functools import cache

from ghoststep.music.kit import VOICES

# What people call the drums. A group stands for the voices a hand plays there; the first is the one a new hit gets.
HATS = ("hat_closed", "hat_half", "hat_open")
TOMS = ("tom_high", "tom_mid", "tom_low", "tom_floor")
DRUMS: dict[str, tuple[str, ...]] = {
    "hat, hats, hihat, hihats, hi hat, hi hats, high hat, high hats, hh, hi - hat, hi - hats": HATS,
    "closed hat, closed hats, tight hat, tight hats, closed hi hat, closed hi hats, closed": ("hat_closed",),
    "open hat, open hats, open hi hat, open hi hats, open hihat, open hihats, opened hat, opened hats": ("hat_open",),
    "half open hat, half open hats, loose hat, loose hats, sloshy hat, sloshy hats, half open, half - open hat, "
    "half - open hats, half open hi hat, half open hi hats": ("hat_half",),
    "foot hat, foot hats, pedal hat, pedal hats, hat foot, hats foot, hat pedal, hat with the foot, foot hi hat, "
    "hats with the foot, pedal, stomp the hat, stomp the hi hat, stomped hat, hi hat with the foot, hi hat foot, "
    "hi hat pedal, hat by foot": ("hat_pedal",),
    "kick, kicks, kick drum, bass drum, bass drums, bd, bass, kicker": ("kick",),
    "snare, snares, snare drum, snare drums, sd": ("snare",),
    "cross stick, cross sticks, cross - stick, cross - sticks, side stick, sidestick, rim click, rim clicks, rim, "
    "rimclick, rimclicks, crossstick": ("cross_stick",),
    "ride, rides, ride cymbal": ("ride",),
    "ride bell, bell, bells, bell of the ride, cup": ("ride_bell",),
    "crash, crashes, crash cymbal, crash cymbals": ("crash",),
    "left crash, crash left, second crash": ("crash_left",),
    "splash, splashes": ("splash",),
    "china, chinas, china cymbal": ("china",),
    "stack": ("stack",),
    "tom, toms, tom toms, tomtoms, tom tom": TOMS,
    "high tom, high toms, tom high, rack tom, small tom, first tom, hi tom": ("tom_high",),
    "mid tom, middle tom, tom mid, second tom, mid toms": ("tom_mid",),
    "low tom, low toms, tom low, third tom": ("tom_low",),
    "floor tom, floor toms, tom floor, floor": ("tom_floor",),
    "cowbell, cowbells, cow bell": ("cowbell",),
    "shaker, shakers": ("shaker",),
    "clap, claps, hand clap, hand claps, handclap, handclaps": ("clap",),
    "cymbal, cymbals": ("crash", "crash_left", "splash", "china", "ride", "ride_bell", "stack"),
    "percussion": ("cowbell", "shaker", "clap"),
    "feet": ("kick", "hat_pedal"),
    "hands": tuple(v.name for v in VOICES if v.limb in "RL"),
}
ALL = "everything, everything else, all of it, it all, the whole thing, all drums, the drums, drums, the groove, the"
ALL += " beat, whole groove, whole beat, all hits, the lot, whole thing, groove, the whole lot"

# One voice's strokes by how they are meant.
ROLES = {
    "ghost, ghosts, ghost note, ghost notes, ghosted, ghosted notes, ghost stroke, ghost strokes": "ghost",
    "emphasize, emphasise, stress, accent, accents, accented, accented hits": "accent",
    "normal hits, normals": "normal",
}
SOFT = "soft, quiet, light, gentle"
HARD = "hard, loud, strong, big"

ACTS: dict[str, str] = {
    "add": "add, layer, put, place, give me, throw in, drop in, drop a, set a, i want, i need, hit, insert a,"
    " include, lay "
    "down, let's have, lets have, drop in a, put in, play a, want, need",
    "remove": "remove, delete, take away, take out, kill, lose, get rid of, erase, drop, leave out, leave off,"
    " cut, cut "
    "out, skip, no, without, omit, ditch, drop out, throw out, take off, minus, get rid, lose all, pull out, "
    "eliminate, strip, strip out",
    "clear": "clear, empty, wipe, silence, blank, clear out, nothing, clear out all of, wipe out",
    "only": "only, just, nothing but, keep only, only keep, just keep, only play",
    "move": "move, shift, slide",
    "copy": "copy, paste, duplicate",
    "swap": "swap, exchange, switch round, trade, flip",
    "reverse": "reverse, backwards, turn round, turn around, mirror, back to front",
    "repeat": "repeat, loop",
    "insert": "insert",
    "double": "double",
    "rotate": "rotate, nudge round",
    "replace": "replace, change, turn, switch, make, put, set, play, use, go, convert, switch over, swap, move, have",
    "open": "open, open up",
    "close": "close, shut",
    "undo": "undo, undo last, undo the last, undo the last step, undo that, undo it, take that back, take it back, go "
    "back, take back, back one, step back",
    "redo": "redo, do it again after all, redo that",
    "again": "again, once more, one more time, same again, do it again, do that again",
    "same": "same, the same, likewise, ditto, same thing, do the same",
    "play": "play, let me hear, hear, listen to, start playing, play me, let's hear, lets hear",
    "stop playing": "stop, stop playing, pause, halt, be quiet, shut up",
    "mute": "mute, silence the sound of, turn off, switch off",
    "solo": "solo, let me hear only, hear only, play only, only hear, isolate, let me hear just, hear just, just hear",
    "unmute": "unmute, unmute all, unmute everything, hear everything, hear it all, unsolo",
    "describe": "describe, what is, what's, whats, tell me, what does, explain, what do, what have, read out, show me "
    "what, say what",
    "check": "playable, check, is this playable, is it playable, possible, can anybody play, is that playable",
    "simplify": "simplify, easier, simpler, make it easier, make it simpler, less busy, sparser, easy, too busy, busy",
    "busier": "busier, more busy, denser, fuller",
    "make playable": "make it playable, make playable, make this playable, make that playable",
    "fill": "fill, drum fill, fill in, fills",
    "crescendo": "crescendo, build, build up, swell, soft to loud, from soft to loud, from quiet to loud, rise,"
    " grow, fade "
    "in, ramp up, quiet to loud, getting louder, get louder",
    "decrescendo": "decrescendo, diminuendo, fade, fade out, die away, loud to soft, from loud to soft, getting"
    " softer, get "
    "softer, ramp down, loud to quiet, from loud to quiet",
    "uneven": "more dynamic, less even, uneven, more uneven",
    "even": "even, even out, level out, level, all the same loudness, same loudness, equal, all equal, equally loud, "
    "flatten, smooth, smooth out, same volume, all the same volume, all equally loud, more even, consistent, "
    "more consistent",
    "humanise": "humanise, humanize, more human, human, sloppier, looser, loosen, loosen up, loose, less"
    " mechanical, more "
    "loose, less robotic, like a human, less stiff, more organic, randomise, randomize",
    "tighten": "tighten, tighten up, tighter, tight, clean up, more precise",
    "straighten": "straighten, dead on the grid, on the grid, quantize, quantise, exactly on the grid,"
    " perfectly on the "
    "grid, dead on, snap to the grid, snap to grid, to the grid",
    "straight": "straight, no swing, without swing, unswing, not swung",
    "letters": "find the form, find the parts, find parts, form",
    "keep": "keep this as, keep it as, save this as, remember this as, keep as",
    "call": "call this, call it, name it, name this",
    "lasts": "lasts, lasting, held for, rings for",
    "count in": "count me in, count in, count - in, countin, count us in",
    "answer": "answer",
    "start": "start a, start with a, start with, start an, give me a, make it a, make a, beat like, like a",
    "lead left": "lead with the left, left handed, left - handed, lefty, left hand leads",
    "lead right": "lead with the right, right handed, right - handed, right hand leads",
    "lead open": "open handed, open - handed",
    "swap hands": "swap the hands, swap hands, change hands, other hands, reverse the hands",
    "thin": "thin, thin out, fewer, less of, reduce, not so many, half of the",
    "choke": "choke, choked, chokes, grab",
    "double time": "double time, double - time",
    "half time": "half time, half - time",
}
# Changes by comparison, with what is compared and the way it goes.
COMPARED: dict[str, tuple[str, int]] = {
    "louder, harder, up, stronger, more volume, turn up, raise, bring up, boost, more loudly, heavier, higher, "
    "increase, pump up, crank up, crank": ("loud", 1),
    "softer, quieter, down, weaker, turn down, lower, bring down, lighter, soften, less loud, gentler, reduce the "
    "volume of, decrease, tone down, more quietly, more softly, quiet down, calmer": ("loud", -1),
    "later, late, behind, lay back, laid back, laid - back, lay, back, drag, behind the beat, delay, hold back, "
    "further back, behind the click, delayed, lazier, lazy, relaxed, sit back": ("late", 1),
    "earlier, early, ahead, push, pushing, on top, on top of the beat, ahead of the beat, rush, forward, in front "
    "of the beat, ahead of the click, pushed, further forward, anticipate": ("late", -1),
    "faster, quicker, speed up, speed it up, speed, up tempo, hurry, accelerate, up the tempo, speed it": ("tempo", 1),
    "slower, slow down, slow it down, slow, slow it, drop the tempo, ritard, ritardando, lower the tempo": (
        "tempo",
        -1,
    ),
    "swing, swung, swinging, swing it, more swing, swingier, more swung, add swing": ("swing", 1),
    "less swing, less swung, straighter, less swinging": ("swing", -1),
}
# Complaints, which ask for the opposite.
TOO = {
    "too loud, too hard, too heavy, too much": ("loud", -1),
    "too soft, too quiet, too weak, can't hear, cannot hear, cant hear, not loud enough, buried": ("loud", 1),
    "too fast": ("tempo", -1),
    "too slow": ("tempo", 1),
    "too early, rushes, rushing": ("late", 1),
    "too late, drags": ("late", -1),
}
DEGREES = {
    "tiny": "a touch, touch, a hair, a tiny bit, tiny bit, ever so slightly, a tad, tad, hair",
    "bit": "a bit, bit, a little, little, slightly, a little bit, little bit, somewhat, slight, some, a small bit, a "
    "notch, notch, a step, a tick, a smidge",
    "lot": "a lot, lot, much, way, far, loads, a great deal, lots, considerably, really, very, a whole lot, strongly",
    "twice": "twice as, twice, double the, two times",
    "half": "half as, half the, at half, half volume, half, halve, halve the",
    "more": "more, even more, further",
    "less": "less, not so much, not as much",
}
TO_LEAD = (
    "to the front, in front, lead, leads, up front, forward in the mix, on top of the mix, let lead, louder than "
    "the rest"
)

ORNAMENTS = {
    "flam, flams, flammed": "flam",
    "drag, drags": "drag",
    "ruff, ruffs": "ruff",
    "double, doubles, double stroke, double strokes": "double",
    "five stroke roll, 5 stroke roll, five stroke rolls": "roll5",
    "six stroke roll, 6 stroke roll": "roll6",
    "seven stroke roll, 7 stroke roll": "roll7",
    "double stroke roll, roll, rolls, open roll": "roll",
    "press roll, buzz roll, press rolls, buzz rolls": "press",
}
STROKES = {
    "rimshot, rimshots, rim shot, rim shots": "rim",
    "buzz, buzzed, buzzes": "buzz",
    "edge": "edge",
    "shoulder, with the shoulder": "shoulder",
    "tip, with the tip": "tip",
    "foot splash, foot splashes, splash with the foot": "splash",
    "brush, brushes, with brushes": "brush",
}
FLOOR = "four on the floor, four to the floor, four - on - the - floor"
LIMBS = {
    "left hand, with the left, left": "l",
    "right hand, with the right, right": "r",
}
PLAYERS = {
    "beginner, learner, student, novice, anybody, anyone, starter": "learner",
    "working drummer, drummer, human being": "working",
    "virtuoso, pro, master": "virtuoso",
}
NOUNS = {
    "tempo, speed, bpm, the tempo, the speed": "tempo",
    "velocity, velocities": "velocity",
    "volume, loudness, level of, levels": "loudness",
    "meter, time signature, metre": "meter",
    "feel, the feel": "feel",
    "end, the end, very end": "end",
    "front, the front, the beginning, the start": "front",
    "hand, hands": "hand",
    "empty": "empty",
    "elsewhere, otherwise, the rest, everywhere else": "elsewhere",
    "eighths swung": "swung",
}
STYLES = {
    "rock, rock beat, backbeat rock": "backbeat-rock", "ballad": "ballad",
    "disco, disco beat": "disco", "funk, funk beat": "funk-sixteenths", "linear funk": "linear-funk",
    "half time beat": "half-time", "shuffle": "shuffle", "slow blues, twelve eight": "slow-twelve-eight",
    "jazz ride, jazz, jazz beat": "jazz-ride", "bossa, bossa nova": "bossa", "samba": "samba-in-two",
    "one drop, reggae": "one-drop", "two step break, two step": "two-step-break", "gallop": "metal-gallop",
}  # fmt: skip
FEELS = {"laid back player, laid - back player, laid back feel, laid - back feel, laid back drummer": "laid-back"}

NOTES = {
    "halves, half notes, half note": 2,
    "quarter, quarters, quarter notes, quarter note, 4ths, crotchets, crotchet": 4,
    "eighth, eighths, eighth notes, eighth note, 8th, 8ths, 8th notes, quavers, quaver": 8,
    "sixteenth, sixteenths, sixteenth notes, sixteenth note, 16th, 16ths, 16th notes, semiquavers": 16,
    "thirty second notes, 32nds, 32nd, 32nd notes": 32,
    "triplet, triplets, eighth triplets, triplet eighths, eighth note triplets": 12,
    "sextuplets, sixteenth triplets": 24,
}
# What carries no meaning of its own.
FILLERS = (
    "could, can, please, can you, could you, would you, the, a, an, it, i'd like, i would like, like to, to,"
    " of, as well, too, "
    "also, now, so, really, there, one, that, this, some, is, are, be, should, let's, lets, let, want, me, have, "
    "get, be a, them, they, these, those, his, her, my, its, at all, here, okay, ok, hey, maybe, hits, hit, notes, "
    "note, strokes, stroke, together, right, all, on, in, at, with, for, by, from, into, onto, away, everywhere, "
    "sounds, sound, drummer, feel, make, makes, do, does, need, needs, was, were, would, up, out, like, always, "
    "each time, thanks, thank you, more, simply, completely, altogether, entirely, single, own, placed, played, "
    "playing, goes, i, think, you, kind of, sort of, well, pattern, part, we, us, length, groove's, than, as, "
    "over, while, what, when, short, nice, listen, does, did, down to, landing, lands, long, using, bring, take, "
    "turn into, exactly, one more, extra, another, sit, sits, extra one, off, any, every, each, bars, bar, beat, "
    "beats"
)
RELATIONS = {
    "just before, right before, shortly before, directly before, before, leading into": "before",
    "just after, right after, straight after, directly after, after, behind": "after",
    "around, before and after, either side of, on both sides of, round": "around",
    "between, in between": "between",
    "under, underneath, beneath, together with, along with, where, at the same time as, whenever, where the,"
    " land with, that land with, on top of every, on top of each, on top of the, on every hit of": "with",
    "instead of, in place of, rather than, not": "instead",
    "except, except for, except on, but, apart from, other than, save": "except",
}


@dataclass(frozen=True)
class Entry:
    """What a row of words stands for: of which table, and its value there."""

    table: str
    value: object


def _rows(table: str, rows: object) -> list[tuple[tuple[str, ...], Entry]]:
    found = rows.items() if isinstance(rows, dict) else [(str(rows), True)]
    out = []
    for words, value in found:
        for one in str(words).split(","):
            if one.strip():
                out.append((tuple(one.split()), Entry(table, value)))
    return out


@cache
def lexicon() -> dict[tuple[str, ...], list[Entry]]:
    """Every row of words with what it may stand for."""
    acts = {words: name for name, words in ACTS.items()}
    degrees = {words: name for name, words in DEGREES.items()}
    tables = [
        ("drum", DRUMS), ("all", ALL), ("role", ROLES), ("soft", SOFT), ("hard", HARD), ("act", acts),
        ("compared", COMPARED), ("too", TOO), ("degree", degrees), ("lead", TO_LEAD), ("ornament", ORNAMENTS),
        ("stroke", STROKES), ("limb", LIMBS), ("player", PLAYERS), ("style", STYLES), ("feel", FEELS), ("note", NOTES),
        ("relation", RELATIONS), ("floor", FLOOR), ("noun", NOUNS), ("filler", FILLERS),
    ]  # fmt: skip
    out: dict[tuple[str, ...], list[Entry]] = {}
    for table, rows in tables:
        for words, entry in _rows(table, rows):
            out.setdefault(words, []).append(entry)
    return out


LONGEST = 6  # words of the longest row


@cache
def known_words() -> frozenset[str]:
    """Every single word that means something, for mending what is misspelt."""
    more = (
        "then and but ands ones twos threes fours lets trips trip let trip let away backbeat backbeats"
        " downbeat downbeats offbeat"
        " offbeats upbeat upbeats upbeat first second third fourth last next"
        " other every each beat beats bar bars measure measures half percent milliseconds millisecond decibel decibels"
        " tempo meter triplet middle beginning start velocity group groups odd even times time empty front"
        " through until"
        " where between instead quarter eighth sixteenth what does longer hear silent verse chorus twenty thirty forty"
        " fifty sixty seventy eighty ninety hundred section elsewhere otherwise lasts note notes"
    )
    return frozenset(w for row in lexicon() for w in row) | frozenset(more.split())
