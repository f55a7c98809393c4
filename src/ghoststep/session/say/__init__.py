"""Sentences about grooves, as people say them, taken for phrases of the exact language."""
