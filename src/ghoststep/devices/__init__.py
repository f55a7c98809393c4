"""Sound ports, each with a simulated stand-in of the same interface."""
