"""Tapping along with the click that the player heard, while the recording plays."""

from ghoststep.listen.bars.reading import LEAST_TAPS, Click


class ClickTaps:
    """Moments in the recording (s) that were tapped; where the playing goes back, tapping begins anew."""

    def __init__(self) -> None:
        self._taps_s: list[float] = []

    def tap(self, seconds: float) -> str:
        """Take a tap; what to say of it.

        Raises
        ------
        InputError
            Where enough taps were made that keep to no beat.
        """
        if self._taps_s and seconds <= self._taps_s[-1]:
            self._taps_s = []
        self._taps_s.append(seconds)
        found = self.click()
        if found is None:
            return f"Tap {len(self._taps_s)}: tap on, at least {LEAST_TAPS} times, in time with the click."
        return f"Tap {len(self._taps_s)}: {found.bpm:.2f} BPM. Shift+K takes it."

    def clear(self) -> None:
        """Forget them: another recording is looked at."""
        self._taps_s = []

    def click(self) -> Click | None:
        """The click that was tapped, once there are taps enough.

        Raises
        ------
        InputError
            Where they keep to no beat.
        """
        return Click.of_taps(self._taps_s) if len(self._taps_s) >= LEAST_TAPS else None
