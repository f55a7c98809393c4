"""A sentence understood: read into clauses, each tried with every frame, what comes of it done for trial on the groove.

What is offered was tried here and does something. Where two readings are near, or a word was not understood, nothing is
done unasked.
"""

import re
from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace

from ghoststep.music.errors import InputError
from ghoststep.session.language.doing import do
from ghoststep.session.language.edit_context import EditContext
from ghoststep.session.language.kinds import Text
from ghoststep.session.language.verb import commands_in, verb_named
from ghoststep.session.say.clause import Clause, clause_of
from ghoststep.session.say.degrees import Degrees
from ghoststep.session.say.following import followed
from ghoststep.session.say.form_names import named_bars
from ghoststep.session.say.forming import form_said
from ghoststep.session.say.frames import asking, barring, changing, loudness, placing, taking, timing
from ghoststep.session.say.items import Item
from ghoststep.session.say.lexicon import known_words
from ghoststep.session.say.places import InBars, on_triplets
from ghoststep.session.say.reading import items_of
from ghoststep.session.say.sense import AlreadyError, MissingError, Reading, Sense
from ghoststep.session.say.tokens import Token, tokens_of

Frame = Callable[[Clause, Sense], Iterator[Reading]]
FRAMES: tuple[Frame, ...] = (
    asking.alone, asking.heard, asking.describing, asking.checking, asking.fills, asking.styles, asking.times,
    barring.alike, barring.structure, barring.introduced,
    timing.meter, timing.swing, timing.tempo, timing.readings, timing.strictness,
    loudness.leading, loudness.readings, loudness.set_to, loudness.even, loudness.growing, loudness.accents,
    changing.moved, changing.voices, changing.same_lane, changing.closing, changing.ornaments,
    changing.lasting,
    placing.only, taking.fewer, taking.simpler, taking.choked, taking.swapped, taking.more_ghosts, taking.readings,
    placing.readings,
)  # fmt: skip
# What may be asked in so many words for a frame to be meant; frames that are not here look at that themselves.
_ASKED_WITH: dict[Frame, frozenset[str]] = {
    placing.readings: frozenset({"add", "replace", "double", "start"}),
    placing.only: frozenset({"only", "add", "replace", "play"}),
    taking.readings: frozenset({"remove", "clear", "replace"}),
    loudness.readings: frozenset({"add", "replace", "play", "start"}),
    timing.readings: frozenset({"add", "replace", "play", "move", "rotate"}),
    timing.tempo: frozenset({"add", "replace", "play", "start"}),
    timing.swing: frozenset({"add", "replace", "play", "start", "straight"}),
    changing.voices: frozenset({"add", "replace", "swap", "move", "play"}),
    changing.same_lane: frozenset({"add", "replace", "open", "humanise", "tighten"}),
    changing.ornaments: frozenset({"add", "replace", "double", "remove", "start"}),
    changing.moved: frozenset({"add", "replace", "move"}),
    loudness.accents: frozenset({"add", "replace", "start", "remove", "only"}),
    asking.fills: frozenset({"fill", "add", "replace", "start", "insert"}),
}
_OF_BARS = (
    barring.structure,
    barring.alike,
    barring.introduced,
    asking.fills,
    timing.swing,
    asking.heard,
    changing.moved,
)
NEAR = 0.12  # readings that are as near as this are asked about
_MOST_CLAUSES = 6
_NAMING = re.compile(
    r"^(?:please\s+)?(?:(call (?:it|this)|name (?:it|this))|(keep (?:it|this) as|save (?:it|this) as))\s+(\S.*)$", re.I
)


@dataclass(frozen=True)
class Tried:
    """A reading with what it says and where it leads."""

    reading: Reading
    words: str
    context: EditContext

    @property
    def phrase(self) -> str:
        """The exact phrases, as they are kept and typed."""
        return "; ".join(self.reading.phrases)


@dataclass(frozen=True)
class Understood:
    """What a sentence was taken for.

    tried: readings that do something, the likeliest first. sure: whether the first may be done unasked. trouble: in one
    sentence, why nothing can be; span: the letters of the text that were not understood. exact: it was exact language.
    """

    text: str
    tried: tuple[Tried, ...] = ()
    trouble: str = ""
    span: tuple[int, int] | None = None
    exact: bool = False
    clauses: tuple[Clause, ...] = ()

    @property
    def sure(self) -> bool:
        if not self.tried:
            return False
        if len(self.tried) == 1:
            return self.tried[0].reading.likely >= 0.6
        return self.tried[0].reading.likely - self.tried[1].reading.likely > NEAR


def understood(
    context: EditContext,
    text: str,
    before: Sequence[Understood] = (),
    degrees: Degrees | None = None,
    within: frozenset[int] = frozenset(),
) -> Understood:
    """What a sentence means on a groove; nothing is changed.

    before: what was understood and done just before, the newest last, for "a bit more" and "and the same on 3".
    within: the bars that are meant where none are named; none for all.
    """
    context = replace(context, asks=())
    shown = text.strip()
    if not shown:
        return Understood(text, trouble="Say what to do: kick on 3, snare a bit louder, fill at the end.")
    exact = _exact(context, shown)
    if exact is not None and not _takes_any_words(shown):
        return exact
    try:
        names = named_bars(context.document.form)
        tokens = tokens_of(text, known_words() | {w for row in names for w in row})
    except InputError as error:
        return Understood(text, trouble=str(error))
    if not tokens:
        return Understood(text, trouble="There are no words in that.", span=(0, len(text)))
    named = _named(shown)
    if named is not None:
        trouble: list[str] = []
        tried = _all_tried(context, [named], trouble)
        return _settled(text, tried, [], trouble[0] if trouble else "")
    try:
        formed = form_said(context, tokens)
    except MissingError as error:
        return Understood(text, trouble=str(error))
    if formed is not None:
        why: list[str] = []
        return _settled(text, _all_tried(context, [formed], why), [], why[0] if why else "That is so already.")
    sense = Sense(context, degrees or Degrees(), tuple(c for u in before[-1:] for c in u.clauses), within)
    found = _read(sense, text, tokens, before, names)
    return exact if exact is not None and not found.tried else found


def _exact(context: EditContext, text: str) -> Understood | None:
    """A text in the exact language that does something here; None where it is none."""
    first = text.split()[0]
    found = verb_named(first)
    if found is None:
        return None
    phrases = commands_in(text)
    try:
        words, after = done(context, phrases)
    except InputError:
        return None
    reading = Reading(words or found.about, tuple(phrases))
    return Understood(text, (Tried(reading, words, after),), exact=True)


def _takes_any_words(text: str) -> bool:
    """Whether the verb it begins with takes any words at all for a name, so that everything would be one."""
    found = verb_named(text.split()[0])
    return found is not None and any(isinstance(p.kind, Text) for p in found.params)


def _named(text: str) -> Reading | None:
    found = _NAMING.match(text.rstrip(".!"))
    if found is None:
        return None
    name = found[3].strip().strip("\"'")
    return (
        Reading(f"Call it {name}", (f"name {name}",)) if found[1] else Reading(f"Keep it as {name}", (f"keep {name}",))
    )


def done(context: EditContext, phrases: Sequence[str]) -> tuple[str, EditContext]:
    """Phrases done one after the other; their words together.

    Raises
    ------
    InputError
        Where one of them cannot be done; the document is as it was.
    """
    told = []
    for phrase in phrases:
        words, context = do(context, phrase)
        told += [words] if words else []
    return "; ".join(dict.fromkeys(told)), context


# -- clauses -----------------------------------------------------------------------------------------------------


def _read(
    sense: Sense, text: str, tokens: list[Token], before: Sequence[Understood], names: Mapping[tuple[str, ...], InBars]
) -> Understood:
    context = sense.context
    items = items_of(tokens, names)
    if context.document.groove.pattern.grid % 3 == 0:
        items = [replace(i, value=on_triplets(i.value)) if i.kind == "spots" else i for i in items]
    words = [t.word for t in tokens]
    unknown = [i for i in items if i.kind == "unknown"]
    trouble: list[str] = []
    again = followed(items, words, before, sense)
    if again is not None:
        readings, leaning = again
        tried = _all_tried(context, readings, trouble)
        return _settled(text, tried, leaning, trouble[0] if trouble else "That cannot be done again here.")
    found, clauses = _best(items, words, sense, trouble)
    if unknown and not (found and all(_harmless(i, items) for i in unknown)):
        first, last = unknown[0], unknown[0]
        span = (tokens[first.first].start, tokens[last.last - 1].end)
        said = text[span[0] : span[1]]
        return Understood(text, trouble=f"'{said}' is no word that means anything here.", span=span)
    if not found:
        why = trouble[0] if trouble else "It is not clear what is to be done."
        return Understood(text, trouble=why, span=None if trouble else (tokens[0].start, tokens[-1].end))
    tried = _all_tried(context, found, trouble)
    return _settled(text, tried, clauses, trouble[0] if trouble else "Nothing would change by that.")


def _harmless(item: Item, items: Sequence[Item]) -> bool:
    return False


def _settled(text: str, tried: list[Tried], clauses: Sequence[Clause], trouble: str) -> Understood:
    if not tried:
        return Understood(text, trouble=trouble)
    return Understood(text, tuple(tried), clauses=tuple(clauses))


def _all_tried(context: EditContext, found: Sequence[Reading], trouble: list[str] | None = None) -> list[Tried]:
    """Each reading done for trial; what cannot be done, or changes nothing, is left out."""
    out: list[Tried] = []
    for reading in sorted(found, key=lambda r: -r.likely):
        try:
            words, after = done(context, reading.phrases)
        except InputError as error:
            if trouble is not None:
                trouble.append(str(error))
            continue
        changes = after.document.groove != context.document.groove or after.document != context.document
        if not changes and not after.asks and not _tells(reading):
            if trouble is not None:
                trouble.append("That is so already: nothing would change.")
            continue
        if any(_same(t.context, after) for t in out):
            continue
        if context.document.groove.pattern.hits and not after.document.groove.pattern.hits and len(reading.phrases) > 1:
            reading = replace(reading, likely=min(reading.likely, 0.5))  # nobody takes everything away step by step
        out.append(Tried(reading, words, after))
    return out


def _tells(reading: Reading) -> bool:
    return bool(reading.phrases) and reading.phrases[0].split()[0] in ("describe", "check", "letters", "playable")


def _same(a: EditContext, b: EditContext) -> bool:
    return (
        a.asks == b.asks
        and not a.asks
        and a.document.groove == b.document.groove
        and a.document.judged == b.document.judged
    )


def _best(items: list[Item], words: list[str], sense: Sense, trouble: list[str]) -> tuple[list[Reading], list[Clause]]:
    """The readings of a sentence: as one clause, else parted where "and", a comma or "then" stands."""
    whole = clause_of(items, words)
    found = [] if whole.several else _of_clause(whole, sense, trouble)
    if found:
        return found, [whole]
    cuts = [
        k
        for k, i in enumerate(items)
        if i.kind == "sep"
        or (i.kind == "relation" and words[i.first] == "but")
        or (i.kind == "act" and words[i.first] == "without")
        or words[i.first] == "with"
    ]
    if not cuts or len(cuts) > 3 * _MOST_CLAUSES:
        return [], []
    own: list[str] = []
    parted = _parted(items, words, sense, cuts, own)
    if parted is None:
        trouble += own
        return [], []
    return parted


def _parted(
    items: list[Item], words: list[str], sense: Sense, cuts: list[int], trouble: list[str]
) -> tuple[list[Reading], list[Clause]] | None:
    """A sentence as several clauses, the longest that means something first; None where something is left over."""
    for cut in reversed(cuts):
        left = items[:cut]
        if not any(i.content for i in left):
            continue
        first_words = set(words[left[0].first : left[-1].last])
        clause = clause_of(left, words)
        clause.words = frozenset(first_words)
        found = [] if clause.several else _of_clause(clause, sense, trouble)
        if not found and clause.already and _whole(clause):
            found = [Reading(clause.already[:-1], ())]
        if not found:
            continue
        keep = items[cut].kind != "sep" and words[items[cut].first] not in ("but", "with")
        rest = items[cut:] if keep else items[cut + 1 :]
        while rest and rest[0].kind == "sep":
            rest = rest[1:]
        if not any(i.content for i in rest):
            return found, [clause]
        best = found[0]
        try:
            _, after = done(sense.context, best.phrases)
        except InputError as error:
            trouble.append(str(error))
            continue
        following = _rest(rest, words, replace_context(sense, after), clause, trouble)
        if following is None:
            continue
        more, clauses = following
        out = [
            Reading(
                f"{best.about}; {m.about[:1].lower()}{m.about[1:]}",
                (*best.phrases, *m.phrases),
                min(best.likely, m.likely),
            )
            for m in more
        ]
        return out, [clause, *clauses]
    return None


def replace_context(sense: Sense, after: EditContext) -> Sense:
    return Sense(after, sense.degrees, sense.before, sense.within)


def _rest(
    items: list[Item], words: list[str], sense: Sense, before: Clause, trouble: list[str]
) -> tuple[list[Reading], list[Clause]] | None:
    """What follows a clause, by itself or with what the one before said: the drum, the bars, the act."""
    clause = clause_of(items, words)
    clause.words = frozenset(words[items[0].first : items[-1].last])
    found = [] if clause.several else _of_clause(clause, sense, trouble)
    if "there" in clause.words and clause.spots is None and not clause.bars:  # "crash on 1, no hat there"
        places = [i for i in before.items if i.kind in ("spots", "bars")]
        there = clause_of([*items, *places], words)
        there.words = clause.words
        again = _of_clause(there, sense, trouble)
        return (again, [there]) if again else None
    if found and _leans(clause) and before.things:  # "kick softer and later" is the kick
        joined = clause_of([*[i for i in before.items if _names_drum(i)][:1], *items], words)
        joined.words = clause.words
        again = _of_clause(joined, sense, trouble)
        if again:
            return again, [joined]
    if found:
        if before.where is not None and not clause.bars and _inherits_bars(before):
            inherited = clause_of([*items, *_goal_bars(before)], words)
            inherited.words = clause.words
            again = _of_clause(inherited, sense, trouble)
            if again:
                return again, [inherited]
        return found, [clause]
    if _whole(clause) and clause.already:
        return [Reading(f"{clause.already[:-1]}", ())], [clause]
    for borrowed in _borrowed(items, before):
        joined = clause_of(borrowed, words)
        joined.words = clause.words
        found = [] if joined.several else _of_clause(joined, sense, trouble)
        if found:
            return found, [joined]
    cuts = [k for k, i in enumerate(items) if i.kind == "sep"]
    return _parted(items, words, sense, cuts, trouble) if cuts else None


def _whole(clause: Clause) -> bool:
    """Whether a clause says both what and where."""
    return bool(clause.things) and (clause.spots is not None or clause.where is not None)


def _names_drum(item: Item) -> bool:
    return item.kind == "drum" or (item.kind == "either" and any(n == "drum" for n, _ in item.value))


def _names_act(item: Item) -> bool:
    return item.kind == "act" or (item.kind == "either" and any(n == "act" for n, _ in item.value))


def _leans(clause: Clause) -> bool:
    """Whether a clause compares without saying what: louder, later."""
    return bool(clause.way("loud") or clause.way("late")) and not clause.parts and not clause.bars


def _inherits_bars(before: Clause) -> bool:
    """Whether what is said behind a clause is meant in its bars: "bar 2 like bar 1 but with an open hat on 4&"."""
    return bool({"like", "same"} & before.words) or before.acts("copy", "same")


def _goal_bars(before: Clause) -> list[Item]:
    """The bars that a clause makes like others: those behind "in" or "to", else the first."""
    found = [i for i in before.items if i.kind == "bars"]
    if len(found) > 1 and (before.bars[-1][0] in ("in", "to", "into", "over") or before.acts("copy")):
        return found[-1:]
    return found[:1]


def _borrowed(items: list[Item], before: Clause) -> Iterator[list[Item]]:
    """The items of a clause with what it leaves out put before them, from the one before it."""
    bars = _goal_bars(before) if _inherits_bars(before) else []
    own = any(_names_drum(i) or i.kind == "role" for i in items)
    drums = [] if own else [i for i in before.items if _names_drum(i)][:1]
    acts = [i for i in before.items if _names_act(i)][:1]
    for extra in ([*drums], [*acts], [*acts, *drums]):
        if extra:
            yield [*extra, *items, *bars]


def _of_clause(clause: Clause, sense: Sense, trouble: list[str]) -> list[Reading]:
    out: list[Reading] = []
    likened = len(clause.bars) == 2 and (bool({"like", "same"} & clause.words) or clause.acts("same"))
    hanging = [
        i for i in clause.items if i.kind == "relation" and not clause.related(str(i.value)) and i.value != "with"
    ]
    for frame in (barring.alike,) if likened else FRAMES:
        if hanging and frame not in _OF_BARS:
            continue  # "before bar 2": what stands before a bar is for those who know bars
        allowed = _ASKED_WITH.get(frame)
        if allowed is not None and clause.asks_else(allowed):
            continue
        try:
            out += frame(clause, sense)
        except MissingError as error:
            trouble.append(str(error))
            if isinstance(error, AlreadyError):
                clause.already = str(error)
    return sorted((r for r in out if r.phrases), key=lambda r: -r.likely)
