"""The language of the program: immutable values, no input or output, nothing but NumPy.

Conventions: a position is a whole number of ticks (20160 to the quarter), a moment is in seconds,
a deviation in milliseconds with late positive, a velocity a whole number from 1 to 127.
"""
