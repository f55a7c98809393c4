"""Verbs of versions: keep the groove under a name, and go back to one."""

from ghoststep.session.edits import version_edits as versions
from ghoststep.session.language.language import Done, Stand, settled, verb


@verb("keep", "NAME", "keeps the groove as it is under a name")
def _keep(stand: Stand, words: list[str]) -> Done:
    return settled(stand, versions.keep(stand.document, " ".join(words)))


@verb("back-to", "NAME", "the groove as it was kept under a name")
def _back(stand: Stand, words: list[str]) -> Done:
    return settled(stand, versions.go_back(stand.document, " ".join(words)))


@verb("drop", "NAME", "forgets a version that was kept")
def _drop(stand: Stand, words: list[str]) -> Done:
    return settled(stand, versions.drop(stand.document, " ".join(words)))
