"""Where strokes lie against a line of time: the line, spots, swing and leans."""
