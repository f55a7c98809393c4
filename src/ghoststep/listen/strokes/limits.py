"""How likely a stroke of each group must be to be told, and to be offered."""

# Set on kept-back and development cases: a false cymbal costs more to mend than it helps.
LIMITS = {"kick": 0.85, "snare": 0.42, "hat": 0.2, "toms": 0.6, "cymbals": 0.7}
# From these probabilities on a stroke is offered as "perhaps": a quarter and more of those offered are strokes, of
# kicks one in nine.
PERHAPS = {"kick": 0.75, "snare": 0.25, "hat": 0.12, "toms": 0.4, "cymbals": 0.45}
# Beside a snare a hat needs better log-odds by so much (.35 instead of .2): a snare has much of what a hat has. Set on
# kits as they are and on remade ones.
HAT_WITH_SNARE = 0.77
# Log-odds of a stroke that was heard and is taken back: low enough that nothing brings it back by itself.
TAKEN_BACK = -5.0
