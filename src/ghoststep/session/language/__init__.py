"""The language of commands: verbs, targets, and words read as values. `verb.all_verbs` has the verbs."""
