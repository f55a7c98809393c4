"""Doing: a phrase, or a verb with values, done to a document; the form follows whatever a verb changes."""

from dataclasses import replace
from typing import Any

from ghoststep.session.document.document import Document
from ghoststep.session.edits.commit import committed
from ghoststep.session.edits.hit_edits import Edit
from ghoststep.session.language.edit_context import Done, EditContext
from ghoststep.session.language.forms.follow import kept_in_form
from ghoststep.session.language.verb import NEEDED, all_verbs, phrase_done


def do(context: EditContext, phrase: str) -> Done:
    """Do what a phrase says; the words for the undo step, and where the user stands then.

    Raises
    ------
    InputError
        Where the phrase means nothing or cannot be done; the document is as it was.
    """
    return phrase_done(_followed(context), phrase)


def call(context: EditContext, name: str, /, **values: Any) -> Done:
    """Do a verb with values instead of words, on what is chosen.

    Raises
    ------
    InputError
        Where it cannot be done; the document is as it was.
    """
    found = all_verbs()[name]
    given = {p.name: values.pop(p.name, p.default) for p in found.params}
    missing = [n for n, value in given.items() if value is NEEDED]
    if missing or values:
        raise TypeError(f"{name} takes {[p.name for p in found.params]}, not {[*values]}; missing {missing}")
    return found.run(_followed(context), **given)


def commit(before: Document, edit: Edit) -> Edit:
    """An edit that is no phrase, committed; the form follows it."""
    return committed(before, edit, kept_in_form)


def _followed(context: EditContext) -> EditContext:
    return context if context.follow is kept_in_form else replace(context, follow=kept_in_form)
