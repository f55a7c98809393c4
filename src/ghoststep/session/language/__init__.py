"""The language of commands: verbs, targets, and words read as values.

Whoever imports any of it has all its verbs: they declare themselves when they are loaded.
"""

from ghoststep.session.language import verbs as verbs
