"""Starting, the window, its commands and what outlives a run."""
