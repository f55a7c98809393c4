"""Making and varying parts: ghosts so far."""
