"""The language of commands: verbs, targets, and words read as values."""
