"""Words completed while they are typed."""

from ghoststep.session.say.lexicon import known_words


def completed(text: str) -> str:
    """A text with its last word completed: whole where only one word goes on like it, else as far as all agree."""
    head, _, word = text.rpartition(" ")
    start = word.lower()
    if len(start) < 2:
        return text
    found = sorted(w for w in known_words() if w.startswith(start) and w.isalpha())
    plain = [w for w in found if not (w.endswith("s") and w[:-1] in found)]
    if not plain:
        return text
    more = plain[0] if len(plain) == 1 else _shared(plain)
    done = start + more[len(start) :] + (" " if len(plain) == 1 else "")
    return f"{head} {done}" if head else done


def _shared(words: list[str]) -> str:
    """The letters all of them begin with."""
    first, last = min(words), max(words)
    size = next((k for k, (a, b) in enumerate(zip(first, last, strict=False)) if a != b), min(len(first), len(last)))
    return first[:size]
