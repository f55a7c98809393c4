"""Listen: the recording and what was heard in it."""
