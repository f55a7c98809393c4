"""Sound or taps -> Performance -> Pattern + Feel."""
