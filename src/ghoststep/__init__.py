"""Ghost Step: drum grooves heard, written as a grid, and played with a drummer's touch."""

__version__ = "0.2.0"
