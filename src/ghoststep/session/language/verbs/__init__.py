"""Every verb of the language, by what it is about. Loading them fills the table in `session.language.verb`."""

from ghoststep.session.language.verbs import choosing, feel, hands, hits, judging, playing, time, touching, versions

__all__ = ["choosing", "feel", "hands", "hits", "judging", "playing", "time", "touching", "versions"]
