"""The use cases: open, listen, follow a folder; the same for the window and the commands."""
