"""Kits of recorded strokes: regions, which of them answer a blow, and what they make of their samples."""
