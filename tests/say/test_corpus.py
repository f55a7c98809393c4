"""What people say, on which groove, and what must come of it: of the corpus nearly all, and nothing wrong unasked."""

from collections import Counter

from tests.say.corpus import Row, rows, verdict

LEAST_RIGHT, MOST_WRONG = 0.97, 0.005


def test_the_corpus_is_understood() -> None:
    found = [(row, verdict(row)) for row in rows()]
    counted = Counter(what for _, what in found)
    wrong = [told(row) for row, what in found if what == "wrong"]
    assert len(found) >= 600
    assert counted["right"] >= LEAST_RIGHT * len(found), [told(r) for r, what in found if what != "right"]
    assert len(wrong) <= MOST_WRONG * len(found), wrong


def test_every_topic_and_every_groove_is_there() -> None:
    found = rows()
    assert len({r.topic for r in found}) >= 6 and len({r.groove for r in found}) >= 6
    assert len({(r.groove, r.said) for r in found}) == len(found)


def told(row: Row) -> str:
    return f"{row.groove}: {' >> '.join(row.said)} -> {' or '.join(row.wanted)}"
