"""What a drum or cymbal is made of, as numbers: the built-in kit is a table of these.

A strike is the sum of tones (a head's modes, with the pitch falling after the blow), noise bands (stick, snare wires,
breath of the cymbal) and metal (many inharmonic partials). Each part says how much more of it a harder blow brings,
so loud strokes are brighter and not only louder.
"""

from dataclasses import dataclass


@dataclass(frozen=True)
class Tone:
    """One mode. Pitch falls from hz * (1 + sweep) to hz with time constant sweep_s; hardness: gain ~ v**hardness."""

    hz: float
    gain: float
    decay_s: float
    sweep: float = 0.0
    sweep_s: float = 0.02
    hardness: float = 0.0


@dataclass(frozen=True)
class Noise:
    """A noise band from low_hz to high_hz, rising in attack_s and falling with time constant decay_s."""

    low_hz: float
    high_hz: float
    gain: float
    decay_s: float
    attack_s: float = 0.0
    hardness: float = 0.0


@dataclass(frozen=True)
class Metal:
    """`partials` inharmonic partials between low_hz and high_hz; high ones die first and grow with the blow."""

    low_hz: float
    high_hz: float
    partials: int
    gain: float
    decay_s: float
    hardness: float = 0.0


@dataclass(frozen=True)
class Recipe:
    """A voice: its parts, its level and place in the mix, and how long it rings at most."""

    parts: tuple[Tone | Noise | Metal, ...]
    level_db: float
    pan: float  # -1 left to 1 right, as the player sits
    length_s: float
    drive: float = 0.0


# In the order people reach for them; levels give kick and snare alike and the hats beneath.
NIGHT_TRAM_KIT: dict[str, Recipe] = {
    "kick": Recipe(
        (
            Tone(52, 1.0, 0.16, sweep=2.4, sweep_s=0.016),
            Tone(97, 0.22, 0.07, sweep=1.0, sweep_s=0.012),
            Noise(1800, 6500, 0.16, 0.006, hardness=0.9),
            Noise(60, 700, 0.25, 0.012, hardness=0.4),
        ),
        level_db=-3.0,
        pan=0.0,
        length_s=0.55,
        drive=1.4,
    ),
    "snare": Recipe(
        (
            Tone(187, 0.55, 0.075, sweep=0.35, sweep_s=0.010),
            Tone(331, 0.34, 0.050, sweep=0.25, sweep_s=0.008, hardness=0.2),
            Tone(468, 0.12, 0.035, hardness=0.4),
            Noise(900, 9500, 0.62, 0.070, hardness=0.25),
            Noise(2500, 14000, 0.34, 0.125, attack_s=0.002, hardness=0.5),
            Noise(3000, 12000, 0.35, 0.004, hardness=0.8),
        ),
        level_db=-4.5,
        pan=-0.05,
        length_s=0.55,
        drive=0.8,
    ),
    "cross_stick": Recipe(
        (
            Tone(415, 0.35, 0.020, hardness=0.2),
            Tone(1190, 0.60, 0.017),
            Tone(1835, 0.42, 0.013, hardness=0.3),
            Noise(900, 5500, 0.55, 0.010, hardness=0.4),
        ),
        level_db=-9.0,
        pan=-0.10,
        length_s=0.20,
    ),
    "hat_closed": Recipe(
        (
            Noise(6200, 16500, 0.85, 0.024, hardness=0.25),
            Noise(3800, 9000, 0.30, 0.012, hardness=0.5),
            Metal(3300, 14000, 36, 0.60, 0.034, hardness=0.3),
        ),
        level_db=-12.5,
        pan=0.30,
        length_s=0.22,
    ),
    "hat_half": Recipe(
        (
            Noise(5200, 16000, 0.75, 0.110, hardness=0.3),
            Noise(3500, 9000, 0.30, 0.020, hardness=0.5),
            Metal(2900, 14000, 40, 0.60, 0.120, hardness=0.3),
        ),
        level_db=-12.5,
        pan=0.30,
        length_s=0.60,
    ),
    "hat_open": Recipe(
        (
            Noise(4800, 16500, 0.70, 0.330, hardness=0.3),
            Noise(3500, 9000, 0.30, 0.022, hardness=0.5),
            Metal(2700, 14500, 44, 0.75, 0.420, hardness=0.3),
        ),
        level_db=-12.5,
        pan=0.30,
        length_s=1.60,
    ),
    "hat_pedal": Recipe(
        (
            Noise(3000, 11000, 0.80, 0.020, attack_s=0.003, hardness=0.2),
            Metal(1800, 9000, 30, 0.55, 0.030),
            Tone(210, 0.12, 0.020),
        ),
        level_db=-17.0,
        pan=0.30,
        length_s=0.20,
    ),
    "tom_high": Recipe(
        (
            Tone(176, 1.0, 0.19, sweep=0.45, sweep_s=0.035),
            Tone(281, 0.34, 0.10, sweep=0.3, sweep_s=0.03, hardness=0.3),
            Noise(700, 5500, 0.24, 0.012, hardness=0.7),
        ),
        level_db=-6.0,
        pan=0.25,
        length_s=0.80,
        drive=0.5,
    ),
    "tom_mid": Recipe(
        (
            Tone(128, 1.0, 0.23, sweep=0.45, sweep_s=0.040),
            Tone(205, 0.34, 0.12, sweep=0.3, sweep_s=0.03, hardness=0.3),
            Noise(600, 5000, 0.22, 0.012, hardness=0.7),
        ),
        level_db=-6.0,
        pan=-0.05,
        length_s=0.90,
        drive=0.5,
    ),
    "tom_low": Recipe(
        (
            Tone(86, 1.0, 0.29, sweep=0.45, sweep_s=0.045),
            Tone(138, 0.32, 0.15, sweep=0.3, sweep_s=0.03, hardness=0.3),
            Noise(500, 4500, 0.20, 0.013, hardness=0.7),
        ),
        level_db=-5.5,
        pan=-0.35,
        length_s=1.10,
        drive=0.5,
    ),
    "ride": Recipe(
        (
            Noise(3500, 9500, 0.40, 0.014, hardness=0.4),
            Metal(650, 3200, 16, 0.20, 0.80),
            Metal(2600, 13000, 60, 0.55, 0.75, hardness=0.4),
            Noise(5500, 15000, 0.16, 0.50, hardness=0.6),
        ),
        level_db=-14.0,
        pan=-0.35,
        length_s=2.40,
    ),
    "ride_bell": Recipe(
        (
            Tone(742, 0.42, 0.60),
            Tone(1385, 0.36, 0.50),
            Tone(2360, 0.26, 0.40, hardness=0.3),
            Metal(3000, 12000, 40, 0.34, 0.60, hardness=0.3),
            Noise(3500, 9500, 0.26, 0.010, hardness=0.4),
        ),
        level_db=-13.0,
        pan=-0.35,
        length_s=2.20,
    ),
    "crash": Recipe(
        (
            Noise(2200, 15500, 0.80, 0.60, attack_s=0.004, hardness=0.4),
            Noise(900, 6000, 0.30, 0.16, hardness=0.3),
            Metal(450, 4500, 36, 0.35, 0.95),
            Metal(3500, 15000, 60, 0.50, 0.70, hardness=0.5),
        ),
        level_db=-9.0,
        pan=0.40,
        length_s=3.00,
    ),
    "splash": Recipe(
        (
            Noise(3800, 16500, 0.85, 0.20, attack_s=0.002, hardness=0.4),
            Metal(1300, 9000, 44, 0.42, 0.28, hardness=0.3),
        ),
        level_db=-11.0,
        pan=0.15,
        length_s=1.20,
    ),
    "crash_left": Recipe(
        (
            Noise(3200, 15500, 0.60, 0.55, attack_s=0.002, hardness=0.4),
            Metal(1350, 14500, 60, 0.95, 0.85, hardness=0.45),
            Tone(372, 0.08, 0.30),
        ),
        level_db=-10.5,
        pan=0.45,
        length_s=2.60,
    ),
    "china": Recipe(
        (
            Noise(2200, 12500, 0.85, 0.34, attack_s=0.001, hardness=0.5),
            Metal(700, 9500, 54, 0.95, 0.42, hardness=0.5),
            Tone(285, 0.10, 0.16),
        ),
        level_db=-11.0,
        pan=-0.45,
        length_s=1.80,
    ),
    "stack": Recipe(
        (
            Noise(3400, 13500, 0.95, 0.075, hardness=0.4),
            Metal(1100, 10500, 40, 0.70, 0.085, hardness=0.4),
        ),
        level_db=-11.5,
        pan=0.15,
        length_s=0.45,
    ),
    "tom_floor": Recipe(
        (
            Tone(68, 1.0, 0.34, sweep=0.45, sweep_s=0.050),
            Tone(109, 0.30, 0.17, sweep=0.3, sweep_s=0.03, hardness=0.3),
            Noise(400, 4000, 0.18, 0.014, hardness=0.7),
        ),
        level_db=-5.5,
        pan=-0.50,
        length_s=1.25,
        drive=0.5,
    ),
    "cowbell": Recipe(
        (
            Tone(562, 0.70, 0.085, hardness=0.2),
            Tone(845, 0.62, 0.070, hardness=0.3),
            Tone(1690, 0.22, 0.040, hardness=0.5),
            Noise(1500, 7000, 0.30, 0.006, hardness=0.6),
        ),
        level_db=-12.0,
        pan=0.10,
        length_s=0.45,
    ),
    "shaker": Recipe(
        (
            Noise(5200, 14500, 0.75, 0.032, attack_s=0.014, hardness=0.3),
            Noise(3600, 8000, 0.25, 0.018, attack_s=0.008, hardness=0.4),
        ),
        level_db=-17.0,
        pan=-0.25,
        length_s=0.25,
    ),
    "clap": Recipe(
        (
            Noise(900, 6500, 0.70, 0.012, hardness=0.3),
            Noise(1100, 7500, 0.75, 0.085, attack_s=0.012, hardness=0.3),
            Noise(1500, 5000, 0.40, 0.016, attack_s=0.024, hardness=0.3),
        ),
        level_db=-9.0,
        pan=0.05,
        length_s=0.45,
    ),
}
