"""Every verb of the language, by what it is about. Loading them fills the table in `session.language`."""

from importlib import import_module

_MODULES = ("hits", "touching", "hands", "time", "choosing", "feel", "versions")


def load() -> None:
    """Declare all verbs; once is enough."""
    for name in _MODULES:
        import_module(f"ghoststep.session.language.verbs.{name}")
