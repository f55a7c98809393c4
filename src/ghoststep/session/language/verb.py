"""The language of commands: one phrase does one thing to a document, in the window and without it.

A phrase is a verb with its words, "velocity +4 on snare ghosts" or "accents off-beat on hat bars 2-4". Verbs are
declared once, in `session.language.verbs`, with parameters that have a kind: unit, range and default. Text is one
front of them; the window calls them with values. Help, completion, errors and `ghost-step edit --list` are read off the
kinds.
"""

from collections.abc import Callable
from dataclasses import dataclass, replace
from difflib import SequenceMatcher, get_close_matches
from importlib import import_module
from inspect import signature
from typing import Any

from ghoststep.music.errors import InputError
from ghoststep.session.language.edit_context import Done, EditContext
from ghoststep.session.language.kinds import Kind, takes
from ghoststep.session.language.targets import begins_target, target

NEEDED = object()
ON = "on"


@dataclass(frozen=True)
class Param:
    """A parameter. `key` is the word before it; without one it stands first, in the order of declaration."""

    name: str
    kind: Kind
    key: str = ""
    default: Any = NEEDED

    @property
    def needed(self) -> bool:
        return self.default is NEEDED

    @property
    def usage(self) -> str:
        text = f"{self.key} {self.kind.usage}".strip()
        return text if self.needed else f"[{text}]"


@dataclass(frozen=True)
class Verb:
    """`on_hits`: works on the chosen hits, or on those that are named. `example` is a phrase that works."""

    name: str
    about: str
    params: tuple[Param, ...]
    run: Callable[..., Done]
    on_hits: bool
    example: str

    @property
    def line(self) -> str:
        """How it is written."""
        return " ".join([self.name, *(p.usage for p in self.params), *(["[on TARGET]"] if self.on_hits else [])])

    @property
    def keys(self) -> set[str]:
        return {p.key for p in self.params if p.key} | ({ON} if self.on_hits else set())


@dataclass(frozen=True)
class After:
    """A kind whose words stand behind a key word: `Annotated[set[int], After("bars", SomeBars())]`."""

    key: str
    kind: Kind


def _params(run: Callable[..., Done]) -> tuple[Param, ...]:
    """The parameters of a verb's function behind its context, each `Annotated[type, kind]` or with `After`."""
    out = []
    for p in [*signature(run).parameters.values()][1:]:
        said = p.annotation.__metadata__[0]
        key, kind = (said.key, said.kind) if isinstance(said, After) else ("", said)
        out.append(Param(p.name, kind, key, NEEDED if p.default is p.empty else p.default))
    return tuple(out)


_VERBS: dict[str, Verb] = {}
_ALSO: dict[str, str] = {}  # other words for verbs


def all_verbs() -> dict[str, Verb]:
    """Every verb by its name. They are loaded when they are first asked for: each knows this module, and none is known
    by it, so that any part of the language can be loaded by any thread in any order."""
    import_module("ghoststep.session.language.verbs")
    return _VERBS


def other_words() -> dict[str, str]:
    """Other words for verbs, with the names of those."""
    all_verbs()
    return _ALSO


Run = Callable[..., Done]


def verb(
    name: str, about: str, *, on_hits: bool = False, example: str = "", also: tuple[str, ...] = ()
) -> Callable[[Run], Run]:
    """Declare a verb; its parameters are those of its function, whose annotations say the kind of each."""

    if name in _VERBS:
        raise ValueError(f"There are two verbs called {name}.")

    def add(run: Run) -> Run:
        _VERBS[name] = Verb(name, about, _params(run), run, on_hits, example or name)
        _ALSO.update(dict.fromkeys(also, name))
        return run

    return add


def phrase_done(context: EditContext, phrase: str) -> Done:
    """What a phrase comes to, with only that following which the context has.

    Raises
    ------
    InputError
        Where the phrase means nothing or cannot be done; the document is as it was.
    """
    words = phrase.split()
    if not words:
        raise InputError("Say what to do, for example: velocity 64 on snare ghosts.")
    found = verb_named(words[0])
    if found is None:
        raise InputError(f"'{words[0]}' is no command. {nearest(phrase)}")
    values, aimed = _read(found, words[1:], context)
    return found.run(aimed, **values)


def commands_in(text: str) -> list[str]:
    """The commands in a text, with semicolons between them; what takes phrases itself takes all to the end."""
    out: list[str] = []
    rest = text
    while rest.strip():
        found = verb_named(rest.split()[0])
        takes_all = found is not None and any(getattr(p.kind, "usage", "").startswith("PHRASES") for p in found.params)
        command, _, rest = (rest, "", "") if takes_all else rest.partition(";")
        out += [command.strip()] if command.strip() else []
    return out


def verb_named(word: str) -> Verb | None:
    """The verb of a name or of another word for it."""
    name = word.lower()
    return all_verbs().get(_ALSO.get(name, name))


def nearest(phrase: str) -> str:
    """A sentence with what comes nearest to a phrase that was not understood."""
    first, _, rest = phrase.strip().lower().partition(" ")
    verbs = all_verbs()
    near = get_close_matches(first, (*verbs, *_ALSO), n=1, cutoff=0.6)
    if near:
        found = verbs[_ALSO.get(near[0], near[0])]
        return f"Did you mean: {near[0]} {rest}".rstrip() + f"? It is said like: {found.example}."
    best = max(verbs.values(), key=lambda v: SequenceMatcher(None, phrase.lower(), v.example).ratio())
    return f"The nearest that is understood: {best.example}. All there is: ghost-step edit --list."


def _read(found: Verb, words: list[str], context: EditContext) -> tuple[dict[str, Any], EditContext]:
    """Values for a verb's parameters, and the context with those hits chosen that it is meant for."""
    head, clauses = _parted(words, found.keys)
    values: dict[str, Any] = {}
    # What stands behind key words is read first: "bar 2 2e" is a bar, and leaves a spot for another parameter.
    for p in sorted(found.params, key=lambda p: not p.key):
        try:
            if p.key:
                if p.key in clauses:
                    values[p.name], left = p.kind.take(clauses.pop(p.key), context)
                    head += left
                else:
                    values[p.name] = _default(p, found)
            elif p.needed or takes(p.kind, head, context):
                values[p.name], head = p.kind.take(head, context)
            else:
                values[p.name] = p.default
        except InputError as error:
            raise InputError(f"{error} For example: {found.example}.") from error
    aim = [*head, *clauses.pop(ON, [])]
    if not found.on_hits:
        if aim:
            raise InputError(f"'{' '.join(aim)}' says nothing here. It is said like: {found.example}.")
        return values, context
    if head and not begins_target(head[0]) and not head[0][0].isdigit():
        raise InputError(f"'{' '.join(head)}' says nothing here. It is said like: {found.example}.")
    if not aim:
        return values, context
    aimed = target(context, aim)
    if not aimed.chosen:
        raise InputError(f"No hit is '{' '.join(aim)}' in this groove.")
    return values, aimed


def _default(p: Param, found: Verb) -> Any:
    if p.needed:
        raise InputError(f"'{found.name}' needs {p.usage}.")
    return p.default


def _parted(words: list[str], keys: set[str]) -> tuple[list[str], dict[str, list[str]]]:
    """The words before the first key word, and those behind each."""
    head: list[str] = []
    clauses: dict[str, list[str]] = {}
    into = head
    for word in words:
        key = {"bar": "bars"}.get(word.lower(), word.lower())
        if key == "bars" and into is clauses.get("at") and not into:
            key = ""  # "at bar 3 2a" names a spot
        # Behind "on" everything is the target, but for what only this verb's own words can mean.
        if key in keys and key not in clauses and not (ON in clauses and key in ("bars", "at", "under")):
            into = clauses[key] = []
        else:
            into.append(word)
    return head, clauses


def chosen_or_all(context: EditContext) -> EditContext:
    """What is chosen, or else every hit."""
    return (
        context
        if context.hits
        else replace(context, chosen=frozenset(h.key for h in context.document.groove.pattern.hits))
    )
