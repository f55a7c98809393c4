"""The commands: the same work without a window."""
