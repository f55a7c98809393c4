"""Rules of listening: each adds to the evidence under one of four ideas (`rule.Idea`)."""
