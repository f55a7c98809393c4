"""Place: the grid and the pages beside it."""
