"""How strokes are counted: pulse, meter, bars, and the groove that explains them."""
