"""Form: the road map of a piece: parts, variations, sections in their order."""
