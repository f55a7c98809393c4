"""Commands as properties: in any order, undo leads back to the start and redo to the end."""

import random

from hypothesis import given, settings
from hypothesis import strategies as st
from tests.strategies import documents, ornate_grooves
from tools.fuzz.phrases import WITH_WORDS, phrases

from ghoststep.files.textgrid import parse_grid
from ghoststep.music.errors import InputError
from ghoststep.music.groove import Groove
from ghoststep.music.touch import Role
from ghoststep.session.commands import do_named
from ghoststep.session.document.differences import difference
from ghoststep.session.document.document import Document
from ghoststep.session.document.history import History
from ghoststep.session.edits.commit import opened
from ghoststep.session.language.doing import commit, do
from ghoststep.session.language.edit_context import EditContext


def test_three_thousand_commands_are_taken_back_to_the_very_start(grid_text: str) -> None:

    dice = random.Random(2026)
    start = Document("depot", parse_grid(grid_text))
    history, context = History(opened(start), commit), EditContext(start)
    refused = changed = 0
    for _ in range(3000):
        try:
            words, after = do_named(context, phrases(dice))
        except InputError as error:
            refused += 1
            assert str(error).strip()
            continue
        if after.document is not context.document:
            assert words
            history.do(words, after.document)
            changed += 1
        context = after
        if len(context.document.groove.pattern.hits) > 400 or context.document.groove.pattern.bars > 12:
            context = EditContext(start, shelf=context.shelf)
            history.do("over again", start)
    last = history.document
    assert changed > 900 and refused < 2000
    count = 0
    while history.undo():
        count += 1
    assert history.document.groove == start.groove == parse_grid(grid_text)
    while history.redo():
        count -= 1
    assert history.document is last and count == 0


@settings(max_examples=60, deadline=None)
@given(documents, st.integers(20, 190), st.booleans())
def test_scaling_keeps_roles_in_order(document: Document, percent: int, even: bool) -> None:
    document = opened(document)
    if not document.groove.pattern.hits:
        return
    _, after = do(
        EditContext(document), f"even {percent - 90} on everything" if even else f"scale {percent} on everything"
    )
    bands = {Role.GHOST: (1, 45), Role.NORMAL: (46, 95), Role.ACCENT: (96, 127)}
    before = {h.key: h for h in document.groove.pattern.hits}
    assert len(after.document.groove.pattern.hits) == len(before)
    for new in after.document.groove.pattern.hits:
        old = before[new.key]
        assert old.role is new.role
        if new is not old:
            assert bands[new.role][0] <= new.velocity <= bands[new.role][1]


@settings(max_examples=60, deadline=None)
@given(ornate_grooves, ornate_grooves)
def test_a_difference_applied_gives_the_other_version(first: Groove, second: Groove) -> None:
    assert difference(first, second).applied(first) == second


@settings(max_examples=40, deadline=None)
@given(documents, st.sampled_from(WITH_WORDS), st.integers(-20, 140))
def test_a_command_leaves_the_document_it_was_given_alone(document: Document, phrase: str, n: int) -> None:
    before = (document.groove.pattern.hits, document.groove.feel, document.groove.pattern.rules)
    try:
        _, after = do(EditContext(document), phrase.format(n=n))
    except InputError:
        after = None
    assert (document.groove.pattern.hits, document.groove.feel, document.groove.pattern.rules) == before
    if after is not None:
        pattern = after.document.groove.pattern
        assert list(pattern.hits) == sorted(pattern.hits, key=lambda h: h.sort_key)
        assert all(0 <= h.position_ticks < pattern.length_ticks for h in pattern.hits)
