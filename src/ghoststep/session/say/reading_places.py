"""Words read as places: counts in every way they are spoken, bars, parts of bars, and the nth of something."""

from collections.abc import Sequence
from fractions import Fraction

from ghoststep.session.say.lexicon import NOTES
from ghoststep.session.say.places import LAST, SHARES, InBars, Nth, Spot, Spots, Stretch
from ghoststep.session.say.tokens import Token

Found = tuple[object, int] | None  # what is there, and the word behind it
_ARTICLES = ("the", "a", "an", "all", "these", "both")
_BAR_WORDS = ("bar", "bars", "measure", "measures")
_BEAT_WORDS = ("beat", "beats")
_UNIT_WORDS = (
    "ms", "millisecond", "milliseconds", "bpm", "percent", "%", "db", "decibel", "decibels", "times", "time", "bar",
    "bars", "beat", "beats", "bpms", "hits", "more", "louder", "softer", "faster", "slower", "quieter", "harder",
    "stroke", "empty",
    "later", "earlier", "step", "steps", "late", "early", "sixteenth", "sixteenths", "eighth", "eighths", "quarter",
    "16th", "8th",
)  # fmt: skip
_COMPARED_WORDS = (
    "louder", "softer", "faster", "slower", "quieter", "harder", "later", "earlier", "more", "late", "early", "weaker",
)  # fmt: skip
_NOTE_WORDS = {
    word.strip(): value for row, value in NOTES.items() for word in row.split(",") if " " not in word.strip()
}
_SYLLABLES = ("e", "&", "and", "a", "ah", "trip", "let")
_PLURAL_SYLLABLES = {"ands": "and", "es": "e", "as": "a", "&s": "&", "trips": "trip", "lets": "let"}
_STOPS = ("in", "of", "on", "at", "for", "please", "only", "instead", "with", "without", "but", "then", ",", ";", "is",
          "to", "from", "through", "by", "too", "not", "as", "bar", "bars")  # fmt: skip
_JOINS = ("and", ",", "&", "or", "plus")


class Words:
    """The words of a sentence with some help for reading on."""

    def __init__(self, tokens: Sequence[Token]) -> None:
        self.tokens = list(tokens)

    def word(self, i: int) -> str:
        return self.tokens[i].word if 0 <= i < len(self.tokens) else ""

    def number(self, i: int) -> int | None:
        value = self.tokens[i].number if 0 <= i < len(self.tokens) else None
        return int(value) if value is not None and value == int(value) else None

    def ordinal(self, i: int) -> int | None:
        return self.tokens[i].ordinal if 0 <= i < len(self.tokens) else None

    def glued(self, i: int) -> bool:
        return 0 <= i < len(self.tokens) and self.tokens[i].glued

    def past(self, i: int, words: Sequence[str]) -> int:
        while self.word(i) in words:
            i += 1
        return i


# -- bars ---------------------------------------------------------------------------------------------------------


def bars_at(w: Words, i: int) -> Found:
    """ "bars 2 to 4", "bar 1 and bar 3", "the last two bars", "every second bar", "odd bars", "this bar"."""
    j = w.past(i, ("the",))
    if w.word(j) in _BAR_WORDS and w.number(j + 1) is not None:
        return _numbered_bars(w, j)
    if w.word(j) in ("every", "each", "all"):
        k = j + 1
        if w.word(k) == "the":
            k += 1
        if w.word(k) in _BAR_WORDS:
            return InBars(step=1, each=True), k + 1
        step = 2 if w.word(k) == "other" else w.ordinal(k) or (w.number(k) if w.word(k + 1) == "bars" else None)
        if step and w.word(k + 1) in _BAR_WORDS and w.word(j) != "all":
            return InBars(step=step), k + 2
    if w.word(j) in ("odd", "even") and w.word(j + 1) in _BAR_WORDS:
        return InBars(step=2, start=1 if w.word(j) == "odd" else 2), j + 2
    if w.word(j) in ("this", "current") and w.word(j + 1) in _BAR_WORDS:
        return InBars(here=True), j + 2
    if w.word(j) == "last" and w.word(j + 1) in _BAR_WORDS:
        return InBars(last=1), j + 2
    if w.word(j) in ("last", "first") and (size := w.number(j + 1)) and w.word(j + 2) in _BAR_WORDS:
        return (InBars(last=size) if w.word(j) == "last" else InBars(first=size)), j + 3
    if w.ordinal(j) and w.word(j + 1) in _BAR_WORDS:
        numbers = (w.ordinal(j) or 0,)
        return InBars(numbers), j + 2
    if w.ordinal(j) and w.word(j + 1) == "and":
        k = w.past(j + 2, ("the",))
        if w.ordinal(k) and w.word(k + 1) in _BAR_WORDS:
            return InBars((w.ordinal(j) or 0, w.ordinal(k) or 0)), k + 2
    return None


def _numbered_bars(w: Words, i: int) -> Found:
    """From the word "bar" on: its numbers, and those of further bars that are joined to it."""
    out: list[int] = []
    j = i + 1
    while (number := w.number(j)) is not None:
        if w.word(j + 1) in ("to", "-", "through", "till", "until"):
            k = w.past(j + 2, ("bar", "bars"))
            if out and w.word(j + 1) == "to":  # "copy bars 1 and 2 to 3 and 4"
                out.append(number)
                return InBars(tuple(out)), j + 1
            if (end := w.number(k)) is not None and end >= number:
                if w.word(i) in ("bar", "measure") and w.word(j + 1) == "to":
                    out.append(number)  # "copy bar 1 to bar 3" is no range
                    return InBars(tuple(out)), j + 1
                out += range(number, min(end, number + 4096) + 1)
                j = k + 1
            else:
                out.append(number)
                j += 1
        else:
            out.append(number)
            j += 1
        k = w.past(j, _JOINS)
        if k == j:
            break
        if w.word(k) in ("bar", "measure") and w.number(k + 1) is not None:
            j = k + 1
        elif (
            w.number(k) is not None
            and not _counted(w, k)
            and not (w.glued(k + 1) and w.word(k + 1) in _SYLLABLES)
            and w.word(k + 1) not in ("&", "of")
        ):
            j = k
        else:
            break
    return InBars(tuple(out)), j


def _has_syllable(w: Words, i: int) -> bool:
    """Whether a number is a spot: "4&", "2 of"."""
    return w.word(i + 1) in ("&", "of") or (w.glued(i + 1) and w.word(i + 1) in _SYLLABLES)


def _counted(w: Words, i: int) -> bool:
    """Whether a number has something behind it that makes it another thing than a bar."""
    return w.word(i + 1) in _UNIT_WORDS


# -- spots --------------------------------------------------------------------------------------------------------


def spots_at(w: Words, i: int) -> Found:
    """Spots of a bar, one or a row of them with "and" between."""
    first = _spot_at(w, i)
    if first is None:
        return None
    found, j = first
    while True:
        k = w.past(j, _JOINS)
        k = w.past(k, ("on", "at")) if k > j else k
        more = _spot_at(w, k, listed=True) if k > j or (w.number(j) is not None and not w.glued(j)) else None
        if more is None or bars_at(w, k) is not None:
            return found, j
        found = Spots(found.all + more[0].all, found.last or more[0].last, found.beats or more[0].beats)
        j = more[1]


def _spot_at(w: Words, i: int, *, listed: bool = False) -> tuple[Spots, int] | None:
    for reader in (_of_beats, _named, _every, _edges, _last, _numbered):
        found = reader(w, i)
        if found is not None:
            return found
    return None


def _beats_named(w: Words, i: int) -> tuple[list[int], int] | None:
    """ "2", "beat 2", "two and four", "the last beat", "the second beat": beats by number, LAST for the last."""
    j = w.past(i, ("the", "beat", "beats"))
    if w.word(j) == "last" and w.word(j + 1) == "beat":
        return [LAST], j + 2
    if w.ordinal(j) and w.word(j + 1) == "beat":
        return [w.ordinal(j) or 0], j + 2
    number = w.number(j)
    if number is None:
        return None
    out, j = [number], j + 1
    while True:
        k = w.past(j, _JOINS)
        if k == j or w.number(k) is None or _counted(w, k):
            return out, j
        out.append(w.number(k) or 0)
        j = k + 1


def _of_beats(w: Words, i: int) -> tuple[Spots, int] | None:
    """ "the & of 2 and 4", "the a of every beat", "the last triplet of 3", "the second half of beat 3"."""
    j = w.past(i, ("the", "on"))
    share, k = None, j + 1
    if w.word(j) in _SYLLABLES and w.word(j + 1) == "of":
        share = SHARES[w.word(j)]
    elif w.word(j) in ("last", "middle", "second", "third", "first") and w.word(j + 1) in ("triplet", "triplets"):
        share = {"last": Fraction(2, 3), "third": Fraction(2, 3), "first": Fraction(0)}.get(w.word(j), Fraction(1, 3))
        k = j + 2
        if w.word(k) != "of" and w.word(j + 1) == "triplets":
            return Spots((Spot("every", share=share),)), k
    elif w.word(j) == "second" and w.word(j + 1) == "half" and w.word(j + 2) == "of" and w.word(j + 3) == "beat":
        share, k = Fraction(1, 2), j + 2
    if share is None or w.word(k) != "of":
        return None
    beats = _beats_named(w, k + 1)
    if beats is not None:
        return Spots(tuple(Spot("beat", n, share) for n in beats[0])), beats[1]
    after = w.past(k + 1, ("the",))
    if w.word(after) in ("every", "each", "all") and w.word(after + 1) in _BEAT_WORDS:
        return Spots((Spot("every", share=share),)), after + 2
    return None


_NAMED = {
    "backbeat": "backbeats", "backbeats": "backbeats", "offbeat": "&", "offbeats": "&", "upbeat": "&", "upbeats": "&",
    "downbeat": "1", "downbeats": "1", "ones": "1", "twos": "2", "threes": "3", "fours": "4",
}  # fmt: skip


def _named(w: Words, i: int) -> tuple[Spots, int] | None:
    """Spots that have names: backbeats, offbeats, downbeats, the beats, the ands, all four."""
    j = w.past(i, ("the", "all", "every", "each", "both", "on", "these"))
    word = w.word(j)
    if word in _PLURAL_SYLLABLES and (j > i or word == "ands"):
        return Spots((Spot("every", share=SHARES[_PLURAL_SYLLABLES[word]]),)), j + 1
    ordinal = w.ordinal(j) or (LAST if word == "last" else 0)
    if ordinal and w.word(j + 1) == "backbeat":  # "the second backbeat" is the second of each bar
        return Spots((Spot("nth backbeat", ordinal),)), j + 2
    if w.word(j) == "off" and w.word(j + 1) in _BEAT_WORDS:
        return Spots((Spot("every", share=Fraction(1, 2)),)), j + 2
    if word in _NAMED:
        name = _NAMED[word]
        if name == "backbeats":
            return Spots((Spot("backbeats"),)), j + 1
        if name == "&":
            return Spots((Spot("every", share=Fraction(1, 2)),)), j + 1
        return Spots((Spot("beat", int(name)),)), j + 1
    if word in _BEAT_WORDS and j > i and w.number(j + 1) is None and w.word(j - 1) not in ("a", "an"):
        if w.word(j) == "beat" and w.word(j - 1) not in ("the", "every", "each"):
            return None
        return Spots((Spot("every"),)), j + 1
    if w.number(j) == 4 and j > i and w.word(j - 1) in ("all", "every"):
        return Spots((Spot("every"),)), w.past(j + 1, _BEAT_WORDS)
    return None


def _every(w: Words, i: int) -> tuple[Spots, int] | None:
    """ "every and", "all the a's", "every eighth", "each quarter"."""
    j = w.past(i, ("on",))
    if w.word(j) not in ("every", "each", "all"):
        return None
    k = w.past(j + 1, ("the",))
    word = w.word(k)
    if (word in _SYLLABLES and word not in ("a",)) or (word == "a" and (w.word(k + 1) in _STOPS or not w.word(k + 1))):
        if w.word(k + 1) == "of":
            beats = _beats_named(w, k + 2)
            if beats is not None:
                return Spots(tuple(Spot("beat", n, SHARES[word]) for n in beats[0])), beats[1]
        return Spots((Spot("every", share=SHARES[word]),)), k + 1
    if word in _NOTE_WORDS:
        return Spots((Spot("note", _NOTE_WORDS[word]),)), w.past(k + 1, ("note", "notes"))
    return None


def _edges(w: Words, i: int) -> tuple[Spots, int] | None:
    """ "the start of bar 3", "the beginning", "the very beginning", "the start of each group"."""
    j = w.past(i, ("the", "at", "on", "very"))
    if w.word(j) in ("start", "beginning", "top", "first") and w.word(j + 1) == "of":
        k = w.past(j + 2, ("the",))
        if w.word(k) in ("each", "every") and w.word(k + 1) in ("group", "groups"):
            return Spots((Spot("groups"),)), k + 2
        if w.ordinal(k) and w.word(k + 1) == "group":
            return Spots((Spot("groups", w.ordinal(k) or 0),)), k + 2
        if w.word(k) in ("groove", "song", "loop", "pattern", "whole", "piece") and w.word(j) != "first":
            return Spots((Spot("first of all"),)), k + 1
        if w.word(k) in ("groups",):
            return Spots((Spot("groups"),)), k + 1
        if bars_at(w, k) is not None and w.word(j) != "first":
            return Spots((Spot("beat", 1),)), j + 2
        return None
    if w.word(j) == "end" and w.word(j + 1) == "of" and bars_at(w, w.past(j + 2, ("the",))) is not None:
        return Spots((Spot("end"),)), j + 2
    if w.word(j) in ("start", "beginning") and j > i:
        return Spots((Spot("first of all"),)), j + 1
    return None


def _last(w: Words, i: int) -> tuple[Spots, int] | None:
    """ "the last and", "the last beat", "the last eighth", "the first and": of a bar, of the last one if none is
    named."""
    j = w.past(i, ("the", "on"))
    end = w.word(j) in ("last", "final")
    if not end and not w.ordinal(j):
        return None
    word = w.word(j + 1)
    number = LAST if end else w.ordinal(j) or 0
    if word in ("and", "&", "e", "a", "ah") and (word != "and" or w.ordinal(j + 2) is None):
        if not end and word == "and" and w.word(j + 2) in ("last",):
            return None
        return Spots((Spot("beat", number, SHARES[word]),), last=end), j + 2
    if word == "beat":
        return Spots((Spot("beat", number),), last=end, beats=True), j + 2
    if end and word in _NOTE_WORDS:
        return Spots((Spot("last note", _NOTE_WORDS[word]),), last=True), w.past(j + 2, ("note",))
    if not end and word in ("quarter",):
        return Spots((Spot("beat", number),)), j + 2
    return None


def _numbered(w: Words, i: int) -> tuple[Spots, int] | None:
    """ "4&", "2 and" (at the end), "beat 3", "four and", "3": a count by its number."""
    j = w.past(i, ("the", "on"))
    said = w.word(j) in _BEAT_WORDS
    j = w.past(j, _BEAT_WORDS)
    exact = _exact_count(w, j)
    if exact is not None:
        return exact
    number = w.number(j)
    if number is None or number > 64:
        return None
    after = w.word(j + 1)
    if after in ("+",) and w.glued(j + 1):
        after = "&"
    if after in SHARES and _is_syllable(w, j + 1):
        return Spots((Spot("beat", number, SHARES[after]),)), j + 2
    placed = w.word(j - 1) in ("on", "at", "beat", "the") and after in _COMPARED_WORDS  # "on 3 softer"
    if after in ("/", "%") or (_counted(w, j) and not said and not placed):
        return None
    return Spots((Spot("beat", number),), beats=said), j + 1


def _exact_count(w: Words, i: int) -> tuple[Spots, int] | None:
    """ "2.125", "3+1/6": a count with a share of a beat that has no syllable."""
    value = w.tokens[i].number if i < len(w.tokens) else None
    if value is None or not 1 <= value <= 64:
        return None
    if value != int(value) and not _counted(w, i) and w.word(i - 1) not in ("by", "up", "down"):
        whole = int(value)
        return Spots((Spot("beat", whole, Fraction(str(w.tokens[i].word)) - whole, exact=True),)), i + 1
    if value == int(value) and w.word(i + 1) == "+" and w.glued(i + 1) and w.word(i + 3) == "/" and w.number(i + 4):
        over, under = w.number(i + 2), w.number(i + 4)
        if over is not None and under and over < under:
            return Spots((Spot("beat", int(value), Fraction(over, under), exact=True),)), i + 5
    return None


def _is_syllable(w: Words, i: int) -> bool:
    """Whether "and", "e", "a" behind a number counts on, and joins no other thing."""
    word, after = w.word(i), w.word(i + 1)
    if w.glued(i) or word in ("&", "trip", "let", "ah", "e"):
        return not (word == "&" and not w.glued(i) and w.number(i + 1) is not None)
    return not after or (
        after in _STOPS
        and not (word == "and" and after in ("in", "on", "at", "then", "bar", "bars", "without", "with"))
    )


# -- parts of a bar, and which of some -----------------------------------------------------------------------------


def stretch_at(w: Words, i: int) -> Found:
    """ "the second half of", "the first two beats", "from beat 3 on", "after beat 4", "before beat 3"."""
    j = w.past(i, ("the", "in", "over", "for", "on"))
    if (
        w.word(j) in ("first", "second", "last")
        and w.word(j + 1) == "half"
        and not (w.word(j + 2) == "of" and w.word(j + 3) == "beat")
    ):
        start = Fraction(0) if w.word(j) == "first" else Fraction(1)
        return Stretch("half", start, start + 1), w.past(j + 2, ("of",))
    if w.word(j) in ("first", "last") and (size := w.number(j + 1)) and w.word(j + 2) == "beats":
        if w.word(j) == "first":
            return Stretch("beat", Fraction(0), Fraction(size)), w.past(j + 3, ("of",))
        return Stretch("beat", Fraction(-size), None, last=True), w.past(j + 3, ("of",))
    if w.word(j) == "from" and w.word(w.past(j + 1, ("the",))) == "beat":
        found = _beats_named(w, j + 1)
        if found is not None and found[0][0] != LAST:
            return Stretch("beat", Fraction(found[0][0] - 1), None), w.past(found[1], ("on", "onwards", "onward"))
    if w.word(j) in ("after", "before") and ("beat" in (w.word(j + 1), w.word(j + 2), w.word(j + 3))):
        found = _beats_named(w, j + 1)
        if (found is not None and found[0][0] != LAST and w.word(found[1] - 2) == "beat") or (
            found and w.word(found[1] - 1) == "beat"
        ):
            beat = Fraction(found[0][0])
            if w.word(j) == "after":  # strictly behind that beat's own stroke
                return Stretch("beat", beat - 1 + Fraction(1, 96), None), found[1]
            return Stretch("beat", Fraction(0), beat - 1), found[1]
    return None


def nth_at(w: Words, i: int) -> Found:
    """ "the third", "the last two", "every other", "every second", "the first"."""
    j = w.past(i, ("the",))
    if w.word(j) == "every" and (w.word(j + 1) == "other" or w.ordinal(j + 1)):
        return Nth(every=2 if w.word(j + 1) == "other" else w.ordinal(j + 1) or 2), j + 2
    if w.word(j) in ("last", "final"):
        size = w.number(j + 1)
        if size and w.word(j + 2) not in ("beats", "bars"):
            return Nth(-1, size), j + 2
        return Nth(-1), j + 1
    if w.word(j) == "middle" and w.number(j + 1):
        return Nth(0, w.number(j + 1) or 1), j + 2
    if (at := w.ordinal(j)) is not None and w.word(j) not in _NOTE_WORDS:
        size = w.number(j + 1)
        if at == 1 and size and w.word(j + 2) not in ("beats", "bars"):
            return Nth(1, size), j + 2
        others, k = [], w.past(j + 1, _JOINS)
        while k > j + 1 and (also := w.ordinal(w.past(k, ("the",)))) is not None:
            j = w.past(k, ("the",))
            others.append(also)
            k = w.past(j + 1, _JOINS)
        return Nth(at, others=tuple(others)), j + 1
    return None


def scope_at(w: Words, i: int) -> Found:
    """ "of each beat", "of every bar": what the nth is counted in."""
    j = w.past(i, ("of", "in"))
    if j > i and w.word(j) in ("each", "every") and w.word(j + 1) in ("beat", "bar", "measure"):
        return ("beat" if w.word(j + 1) == "beat" else "bar"), j + 2
    return None
