"""What can be said, by topics, each with examples: for the page of the help, and for suggestions that fit a groove."""

from collections.abc import Iterator
from itertools import chain, zip_longest

from ghoststep.session.language.edit_context import EditContext

_SMALL = {"the", "a", "an", "on", "in", "of", "and", "to", "it", "at", "with", "bar", "1", "2", "3", "4"}
_LOOKED_AT = 12
TOPICS: dict[str, tuple[str, ...]] = {
    "Put strokes in": (
        "kick on 3", "ghost before the backbeat", "crash on the one of bar 1", "kick just before each snare accent",
        "hats in eighths", "clap where the snare hits hard", "splash on the last and", "ghosts around the backbeats",
    ),
    "Take strokes away": (
        "no ghosts in bar 2", "drop the last kick of each bar", "only hats in the last bar",
        "leave out every other hat",
        "nothing on the last beat", "remove the kicks except on 1",
    ),
    "Other sounds": (
        "open hat on the and of 4", "put the hats on the ride", "cross stick instead of snare", "half open hats",
        "snare to the floor tom on 4", "ride bell on the beats",
    ),
    "How it is struck": (
        "flam on 4", "rimshot on every backbeat", "a drag before the 2", "five stroke roll on the last beat",
        "left hand on the ghosts", "a two beat fill in the last bar",
    ),
    "How loud": (
        "snare a bit louder", "ghosts softer", "hats down 3 dB", "accent the hat on the ands",
        "second kick weaker than the"
        " first", "hats from soft to loud over the last bar", "bring the kick to the front",
    ),
    "When it comes": (
        "lay the snare back a little", "snare 10 ms late", "push the hats", "more swing", "swing the sixteenths at 57"
        " percent", "humanise it", "dead on the grid", "tighten the kick",
    ),
    "Tempo and meter": ("a bit faster", "92 bpm", "slow down to 80 over the last bar", "last bar in 2/4"),
    "Bars": (
        "bar 2 like bar 1 but without the last kick", "repeat bar 1 four times", "copy bar 1 to bar 3",
        "swap bars 1 and 2",
        "insert a bar after bar 1", "delete the last bar", "start with two bars of just hats",
    ),
    "Hear and ask": (
        "play bar 2", "mute the kick", "solo the snare", "just the hands", "play it at half speed", "what is in bar 2",
        "could a beginner play this", "undo",
    ),
    "Going on": ("again", "a bit more", "no, earlier", "and the same on 3", "and the kick"),
}  # fmt: skip


def in_turn() -> Iterator[str]:
    """Examples, one of each topic after the other, but for those that go on from something."""
    rows = [examples for topic, examples in TOPICS.items() if topic != "Going on"]
    return (x for x in chain.from_iterable(zip_longest(*rows)) if x is not None)


def near_to(context: EditContext, text: str, most: int = 3) -> list[str]:
    """Sentences that share words with one that was not understood, tried on the groove."""
    from ghoststep.session.say.understanding import understood

    said = set(text.lower().split()) - _SMALL
    ranked = sorted(in_turn(), key=lambda example: -len(said & set(example.split())))
    out: list[str] = []
    for example in ranked[:_LOOKED_AT]:
        if said & set(example.split()) and understood(context, example).sure:
            out.append(example)
        if len(out) == most:
            break
    return out


def suggestions(context: EditContext, most: int = 4, begins: str = "") -> list[str]:
    """Sentences that do something on a groove, tried on it; only those that begin with what was typed."""
    from ghoststep.session.say.understanding import understood

    out: list[str] = []
    start = begins.strip().lower()
    for example in in_turn():
        if start and not example.startswith(start):
            continue
        found = understood(context, example)
        if found.sure and found.tried[0].context.document is not context.document:
            out.append(example)
        if len(out) == most:
            break
    return out
