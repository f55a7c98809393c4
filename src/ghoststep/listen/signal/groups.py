"""The groups of drums that are told apart by their sound."""

# The order of the network's group outputs, fixed by the training.
NET_GROUPS = ("kick", "snare", "hat", "toms", "cymbals")
