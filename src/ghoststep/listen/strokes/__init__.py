"""What is struck at each candidate: the network, the evidence, the rules, and the strokes that are told."""
