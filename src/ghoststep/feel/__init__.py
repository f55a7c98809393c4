"""From score to sound: how a feel turns a pattern into a performance."""
