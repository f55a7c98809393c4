"""Parts for the check: playable ones, drawn by a seed, and players, dice and machines that play them."""

import random
from dataclasses import replace

import numpy as np

from ghoststep.files.textgrid import parse_grid
from ghoststep.music.groove import Groove

BAR = 80640
_HATS = ("x-x-x-x-x-x-x-x-", "X-x-X-x-X-x-X-x-", "x---x---x---x---", "x-xxx-xxx-xxx-xx", "--x---x---x---x-")


def playable(rng: random.Random, bars: int, bpm: int = 0) -> Groove:
    """A part as drummers play it: time by one hand, backbeats and ghosts by the other, kicks, a fill now and then."""
    hats = rng.choice(_HATS)
    keeper = rng.choice(["hat_closed", "hat_closed", "ride"])
    rows: dict[str, list[str]] = {v: [] for v in (keeper, "snare", "kick", "crash", "tom_high", "tom_low")}
    for bar in range(bars):
        time, snare, kick = list(hats), list("----X-------X---"), ["-"] * 16
        crash, high, low = ["-"] * 16, ["-"] * 16, ["-"] * 16
        for i in (2, 7, 9, 15):
            if rng.random() < 0.35:
                snare[i] = "o"
        for i in range(0, 16, 2):
            if i == 0 or rng.random() < 0.3:
                kick[i] = "x"
        if bar % 4 == 3:
            for i in range(12, 16):
                time[i] = "-"
                rng.choice((snare, high, low))[i] = "x"
            for i in range(12, 16):
                if [snare[i], high[i], low[i]].count("-") < 2:
                    high[i] = low[i] = "-"
        if bar % 4 == 0 and bar:
            crash[0], time[0], snare[0] = "X", "-", "-"
        for name, row in ((keeper, time), ("snare", snare), ("kick", kick), ("crash", crash), ("tom_high", high)):
            rows[name].append("".join(row))
        rows["tom_low"].append("".join(low))
    text = "\n".join(f"{v} {'|'.join(row)}" for v, row in rows.items() if any(set(r) - {"-"} for r in row))
    return parse_grid(f"tempo {bpm or rng.choice([76, 88, 96, 104, 116])}\n{text}")


def pink(count: int, exponent: float, dice: np.random.Generator) -> np.ndarray:
    """A row whose spectrum is 1/f^exponent, of spread 1."""
    f = np.fft.rfftfreq(count)
    f[0] = 1
    size = f ** (-exponent / 2)
    size[0] = 0
    out = np.fft.irfft(size * np.exp(2j * np.pi * dice.random(len(f))), count)
    return out / out.std()


def by_player(groove: Groove, dice: np.random.Generator) -> Groove:
    """Played by one clock that all limbs share and one each, both with memory; not the program's own player."""
    ticks = sorted({h.position_ticks for h in groove.pattern.hits})
    spread, share, exponent = dice.uniform(3, 10), dice.uniform(0.4, 0.9), dice.uniform(0.5, 1.2)
    clock = dict(zip(ticks, pink(len(ticks), exponent, dice), strict=True))
    limb = {v: dict(zip(ticks, pink(len(ticks), exponent, dice), strict=True)) for v in groove.pattern.voices}
    own = (1 - share) ** 0.5
    touch = dict(zip(ticks, pink(len(ticks), exponent, dice), strict=True))
    return _played(
        groove,
        lambda h: spread * (share**0.5 * clock[h.position_ticks] + own * limb[h.voice][h.position_ticks]),
        lambda h: 5 * (0.7 * touch[h.position_ticks] + 0.7 * dice.standard_normal()),
    )


def by_dice(groove: Groove, dice: np.random.Generator) -> Groove:
    """Each stroke strays on its own."""
    ms, velocity = dice.uniform(3, 10), dice.uniform(3, 10)
    return _played(groove, lambda h: dice.normal(0, ms), lambda h: dice.normal(0, velocity))


def copied(groove: Groove, dice: np.random.Generator) -> Groove:
    """Its first bar, played by a player, again and again."""
    first = [h for h in groove.pattern.hits if h.position_ticks < BAR]
    one = by_player(groove.changed(pattern=replace(groove.pattern, bars=1, hits=tuple(first))), dice)
    hits = [
        replace(h, position_ticks=h.position_ticks + BAR * b)
        for b in range(groove.pattern.bars)
        for h in one.pattern.hits
    ]
    return groove.changed(pattern=replace(groove.pattern, hits=tuple(hits)))


def _played(groove, ms, velocity) -> Groove:  # type: ignore[no-untyped-def]
    hits = [
        replace(h, offset_ms=float(ms(h)), velocity=int(np.clip(round(h.velocity + velocity(h)), 1, 127)))
        for h in groove.pattern.hits
    ]
    return groove.changed(pattern=replace(groove.pattern, hits=tuple(hits)))
