"""Judgement: who plays what, what it is called, could a drummer play it, would a listener believe it."""
