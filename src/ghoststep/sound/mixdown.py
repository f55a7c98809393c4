"""A mix that is kept between edits: only strikes that came or went are mixed anew.

An edit of one hit in a busy loop of sixteen bars so costs milliseconds instead of a second. Strikes have no state
beside their own numbers (see `render.Strike`), so a sum from which one is taken and another added is the new mix, up to
rounding; after some edits it is mixed from nothing, so that rounding never adds up.
"""

from collections import Counter
from collections.abc import Sequence

from ghoststep.sound.kit import Kit
from ghoststep.sound.render import Mix, Stereo, Strike

MOST_EDITS = 200  # each rounds by about 1e-7 of full scale
_WORTH_IT = 0.4  # mix anew where more than this share of the strikes changed


class Mixdown:
    """The newest mix of one loop. Not thread-safe: one thread prepares sound."""

    def __init__(self) -> None:
        self._key: tuple[int, int] | None = None  # kit and length
        self._mix: Mix | None = None
        self._strikes: Counter[Strike] = Counter()
        self._edits = 0

    def mixed(self, strikes: Sequence[Strike], kit: Kit, length: int) -> Stereo:
        """The sum of the strikes, shape (length, 2); belongs to the caller."""
        wanted = Counter(strikes)
        key = (id(kit), length)
        if self._mix is None or key != self._key or self._edits >= MOST_EDITS:
            return self._anew(wanted, kit, length, key)
        # Only strikes that are in one of the two can differ, unless some stand there more than once.
        some = self._strikes.keys() ^ wanted.keys()
        if self._strikes.total() != len(self._strikes) or wanted.total() != len(wanted):
            some = self._strikes.keys() | wanted.keys()
        changes = {s: wanted[s] - self._strikes[s] for s in some if wanted[s] != self._strikes[s]}
        if sum(map(abs, changes.values())) > _WORTH_IT * max(wanted.total(), 1):
            return self._anew(wanted, kit, length, key)
        for strike, more in sorted(changes.items()):
            for _ in range(abs(more)):
                self._mix.add(strike, 1 if more > 0 else -1)
        self._strikes = wanted
        self._edits += 1
        return self._mix.samples.copy()

    def _anew(self, wanted: Counter[Strike], kit: Kit, length: int, key: tuple[int, int]) -> Stereo:
        mix = Mix(kit, length)
        for strike in wanted.elements():
            mix.add(strike)
        self._key, self._mix, self._strikes, self._edits = key, mix, wanted, 0
        return mix.samples.copy()
