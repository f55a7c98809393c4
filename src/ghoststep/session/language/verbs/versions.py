"""Verbs of versions and names: keep the groove under a name, go back to one, call the groove something."""

from ghoststep.session.edits import version_edits as versions
from ghoststep.session.language.kinds import Text
from ghoststep.session.language.stand import Done, Stand, settled
from ghoststep.session.language.verb import Param, verb


@verb("keep", "keeps the groove as it is under a name", Param("name", Text()), example="keep before the fill")
def _keep(stand: Stand, name: str) -> Done:
    return settled(stand, versions.keep(stand.document, name))


@verb("back-to", "the groove as it was kept under a name", Param("name", Text()), example="back-to before the fill")
def _back(stand: Stand, name: str) -> Done:
    return settled(stand, versions.go_back(stand.document, name))


@verb("drop", "forgets a version that was kept", Param("name", Text()), example="drop before the fill")
def _drop(stand: Stand, name: str) -> Done:
    return settled(stand, versions.drop(stand.document, name))


@verb("name", "what the groove is called", Param("name", Text()), example="name Fog viaduct")
def _name(stand: Stand, name: str) -> Done:
    return settled(stand, versions.rename(stand.document, name))
