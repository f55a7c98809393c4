"""The language of the program: immutable values, no input or output, nothing but NumPy.

Conventions: a position is a whole number of ticks (20160 to the quarter), a moment is in seconds,
a deviation in milliseconds with late positive, a velocity a whole number from 1 to 127.
"""

from typing import TYPE_CHECKING

from ghoststep.lazy import offered

if TYPE_CHECKING:
    from ghoststep.music.errors import InputError as InputError
    from ghoststep.music.feel import Feel as Feel
    from ghoststep.music.feel import Swing as Swing
    from ghoststep.music.form import Form as Form
    from ghoststep.music.form import Part as Part
    from ghoststep.music.form import Play as Play
    from ghoststep.music.form import Section as Section
    from ghoststep.music.groove import Groove as Groove
    from ghoststep.music.kit import VOICES as VOICES
    from ghoststep.music.kit import Voice as Voice
    from ghoststep.music.kit import voice as voice
    from ghoststep.music.meter import Meter as Meter
    from ghoststep.music.pattern import Hit as Hit
    from ghoststep.music.pattern import Pattern as Pattern
    from ghoststep.music.performance import Performance as Performance
    from ghoststep.music.time import TempoMap as TempoMap
    from ghoststep.music.touch import Role as Role

OFFERS = {
    "Feel": "feel",
    "Form": "form",
    "Groove": "groove",
    "Hit": "pattern",
    "InputError": "errors",
    "Meter": "meter",
    "Part": "form",
    "Pattern": "pattern",
    "Performance": "performance",
    "Play": "form",
    "Role": "touch",
    "Section": "form",
    "Swing": "feel",
    "TempoMap": "time",
    "VOICES": "kit",
    "Voice": "kit",
    "voice": "kit",
}
__getattr__, __dir__ = offered(__name__, OFFERS)
