"""How a stroke changes the recipe of its voice: working assumptions about drums in general."""

from dataclasses import replace

from ghoststep.sound.recipe import Metal, Noise, Recipe, Tone

# Delays in s and shares of the blows that follow the first one when a stick is pressed into the head.
BUZZ_BLOWS = ((0.034, 0.82), (0.065, 0.68), (0.093, 0.56), (0.118, 0.45), (0.141, 0.35), (0.162, 0.27), (0.181, 0.2))
_CRACK = (Tone(1190, 0.5, 0.017), Tone(1835, 0.35, 0.013, hardness=0.3), Noise(1200, 9000, 0.5, 0.008, hardness=0.3))


def struck(recipes: dict[str, Recipe], voice: str, stroke: str) -> Recipe:
    """The recipe of a stroke on a voice."""
    recipe = recipes[voice]
    if stroke == "edge":
        return _scaled(recipe, tone=0.7, noise=0.75, ring=1.5, level_db=-2.0)
    if stroke == "rim":
        louder = _scaled(recipe, tone=1.1, noise=1.1, ring=1.1, level_db=1.5)
        return replace(louder, parts=(*louder.parts, *_CRACK))
    if stroke == "brush":
        sweep = Noise(1400, 9500, 0.7, 0.10, attack_s=0.018)
        soft = _scaled(recipe, tone=0.15, noise=0.15, ring=0.8, level_db=-4.0)
        return replace(soft, parts=(sweep, *soft.parts), drive=0.0)
    if stroke == "tip":
        return _scaled(recipe, tone=1.0, noise=0.8, ring=0.75, level_db=-1.5, low=1.15)
    if stroke == "shoulder":
        return _scaled(recipe, tone=1.0, noise=1.15, ring=1.35, level_db=1.5, low=0.8)
    if stroke == "splash":
        opened = _scaled(recipes["hat_open"], tone=1.0, noise=0.8, ring=0.55, level_db=-2.0)
        return replace(opened, parts=tuple(_softened(p) for p in opened.parts))
    return recipe


def _scaled(recipe: Recipe, *, tone: float, noise: float, ring: float, level_db: float, low: float = 1.0) -> Recipe:
    parts: list[Tone | Noise | Metal] = []
    for part in recipe.parts:
        if isinstance(part, Tone):
            parts.append(replace(part, gain=part.gain * tone, decay_s=part.decay_s * ring))
        else:
            low_hz = min(part.low_hz * low, part.high_hz * 0.9)
            parts.append(replace(part, gain=part.gain * noise, decay_s=part.decay_s * ring, low_hz=low_hz))
    length = recipe.length_s * max(ring, 1.0)
    return replace(recipe, parts=tuple(parts), level_db=recipe.level_db + level_db, length_s=length)


def _softened(part: Tone | Noise | Metal) -> Tone | Noise | Metal:
    """Two cymbals that meet have no stick's attack."""
    return replace(part, attack_s=max(part.attack_s, 0.004)) if isinstance(part, Noise) else part
