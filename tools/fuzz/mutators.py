"""Ways to break a file: its bytes, its text, and the values in its JSON."""

import json
import random
from collections.abc import Callable
from typing import Any

Mutator = Callable[[bytes, random.Random], bytes]
_NUMBERS = ("0", "-1", "1e300", "-1e300", "NaN", "Infinity", "9223372036854775808", "0.1", "999999", "1/0", "")
_WORDS = ("gong", "\u202e", "\x00", "x" * 5000, "snare", "'", '"', "| |", "bar 9999", "-> over", "../../x", "\ud7ff")


def flipped(data: bytes, dice: random.Random) -> bytes:
    """Some bytes are others."""
    out = bytearray(data)
    for _ in range(dice.randint(1, 8)):
        out[dice.randrange(len(out))] = dice.choice((0, 0x7F, 0x80, 0xFF, dice.randrange(256)))
    return bytes(out)


def cut(data: bytes, dice: random.Random) -> bytes:
    """It ends too early, or a stretch is gone."""
    a, b = sorted((dice.randrange(len(data)), dice.randrange(len(data) + 1)))
    return data[:a] if dice.random() < 0.5 else data[:a] + data[b:]


def repeated(data: bytes, dice: random.Random) -> bytes:
    """A stretch comes many times."""
    a, b = sorted((dice.randrange(len(data)), dice.randrange(len(data) + 1)))
    part = data[a : min(b, a + 400)]
    return data[:a] + part * dice.choice((2, 50)) + data[a:]


def spliced(data: bytes, dice: random.Random) -> bytes:
    """A stretch stands somewhere else."""
    a, b = sorted((dice.randrange(len(data)), dice.randrange(len(data) + 1)))
    rest = data[:a] + data[b:]
    at = dice.randrange(len(rest) + 1)
    return rest[:at] + data[a:b] + rest[at:]


def reworded(data: bytes, dice: random.Random) -> bytes:
    """A word of a text is another one, or a number nobody expects."""
    words = data.decode("utf-8", "surrogateescape").split(" ")
    for _ in range(dice.randint(1, 3)):
        words[dice.randrange(len(words))] = dice.choice(_NUMBERS + _WORDS)
    return " ".join(words).encode("utf-8", "surrogateescape")


def revalued(data: bytes, dice: random.Random) -> bytes:
    """Some values of a JSON text are others; what is no JSON is reworded."""
    try:
        content = json.loads(data)
    except ValueError:
        return reworded(data, dice)
    for _ in range(dice.randint(1, 3)):
        _change(content, dice)
    return json.dumps(content).encode()


def _change(node: Any, dice: random.Random) -> None:
    """Walk down to some value and change it."""
    while True:
        keys = list(node) if isinstance(node, dict) else list(range(len(node)))
        if not keys:
            return
        key = dice.choice(keys)
        inner = node[key]
        if isinstance(inner, dict | list) and inner and dice.random() < 0.85:
            node = inner
            continue
        how = dice.random()
        if how < 0.15:
            del node[key]
        elif how < 0.25 and isinstance(node, list):
            node.extend([inner] * dice.choice((1, 300)))
        else:
            node[key] = _value(inner, dice)
        return


def _value(old: Any, dice: random.Random) -> Any:
    if isinstance(old, int | float) and not isinstance(old, bool) and dice.random() < 0.8:
        return dice.choice((0, -1, 1, old + 1, -old, old * 1000, 2**40, 2**63, 1e300, -1e300, float("nan"), 0.5))
    return dice.choice((None, True, 0, -1, "", "gong", "x" * 5000, [], {}, [[]], float("inf"), 10**25))


BYTES: tuple[Mutator, ...] = (flipped, cut, repeated, spliced)
TEXT: tuple[Mutator, ...] = (*BYTES, reworded, reworded, reworded)
VALUES: tuple[Mutator, ...] = (flipped, cut, revalued, revalued, revalued, revalued)
