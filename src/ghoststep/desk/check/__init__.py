"""Check: could a drummer play it, would a listener believe it, and what mends it."""
