"""Compose, perform and render the demo recordings, byte for byte the same each time: `make demo-data`.

Three stops of a night tram in a made-up hill town. Each is written as a text grid, played with a known feel by a
player whose clock drifts, recorded on the built-in kit in a room with some noise; the truth stands beside it.
"""

import io
import wave
from collections.abc import Sequence
from dataclasses import dataclass, replace
from fractions import Fraction
from pathlib import Path

import numpy as np

from ghoststep.feel.perform import perform
from ghoststep.files.demo import MOUTH, demo_folder
from ghoststep.files.safe import write_text, write_whole
from ghoststep.files.textgrid import parse_grid
from ghoststep.music.feel import SWING_UNITS, Feel, Swing
from ghoststep.music.groove import Groove
from ghoststep.music.kit import VOICES
from ghoststep.music.pattern import Hit
from ghoststep.music.time import TICKS_PER_QUARTER
from ghoststep.sound.render import render
from ghoststep.sound.room import in_room
from ghoststep.sound.sketch import SketchKit
from tools.mouth_voice import mouthed

RATE = 44100


@dataclass(frozen=True)
class Stop:
    """One recording: the score, how it is played, and how it is recorded."""

    name: str
    grid: str
    feel: Feel
    lead_s: float
    room_s: float
    wet: float
    noise_db: float
    seed: int


LARCH_TERRACE = Stop(
    "larch-terrace",
    """
    tempo 92
    meter 4/4
    hat_closed  X-x-x-xxX-x-x-x- | X-x-x-xxX-x-x-x- | X-x-x-xxX-x-x-x- | X-x-x-xxX-x-x---
    hat_open    ---------------- | ---------------- | ---------------- | --------------x-
    snare       ----X--o-o--X--o | --o-X--o-o--X--o | ----X--o-o--X--o | --o-X--o-o--X-oX
    kick        X--x--x---X----- | X-----x---Xx---- | X--x--x---X----- | X-----x-x-X--x--
    """,
    Feel(Swing(16, 0.57), {"snare": 11.0, "hat_closed": -4.0, "hat_open": -4.0}, 3.5, 4),
    0.35, 0.40, 0.16, -62, 11,
)  # fmt: skip
FOG_VIADUCT = Stop(
    "fog-viaduct",
    """
    tempo 112
    meter 4/4
    crash       X--------------- | ---------------- | ---------------- | ----------------
    hat_closed  --x-X-x-X-x-X-x- | X-x-X-x-X-x-X--- | X-x-X-x-X-x-X-x- | X-x-X-x---------
    hat_open    ---------------- | --------------x- | ---------------- | ----------------
    snare       ----X-------X--o | ----X--o----X--- | ----X-------X--o | ----X-------X-X-
    tom_high    ---------------- | ---------------- | ---------------- | --------xx------
    tom_low     ---------------- | ---------------- | ---------------- | ----------xx-x-x
    kick        X-----x-X------- | X-----x-X-x----- | X-----x-X------- | X-----x-x-------
    """,
    Feel(Swing(), {"hat_closed": -5.0, "hat_open": -5.0, "snare": 3.0}, 3.0, 9),
    0.20, 0.70, 0.24, -58, 12,
)  # fmt: skip
LAST_TRAM = Stop(
    "last-tram",
    """
    tempo 138
    meter 4/4
    grid 8
    ride        X-Xx-xXx | X-Xx-xXx | X-Xx-xX- | X-Xx-xXx | X-Xx-xXx | X-Xx-xXx
    hat_pedal   --x---x- | --x---x- | --x---x- | --x---x- | --x---x- | --x---x-
    cross_stick ------X- | ---x--X- | ------X- | ---x--X- | ------X- | -------x
    snare       ---o---- | -----o-o | ---o---- | -o---o-- | ---o---- | -o-o-o--
    kick        X------- | X---x--- | X------x | ----x--- | X------- | X---x---
    """,
    Feel(Swing(8, 0.635), {"snare": 6.0, "cross_stick": 6.0, "ride": -3.0, "ride_bell": -3.0}, 4.0, 21),
    0.45, 0.55, 0.20, -60, 13,
)  # fmt: skip
ROUTE = (LARCH_TERRACE, FOG_VIADUCT, LAST_TRAM)


def touched(groove: Groove, seed: int) -> Groove:
    """Velocities like a hand's: no two alike, ghosts between 22 and 42."""
    rng = np.random.default_rng(seed)
    hits = tuple(replace(h, velocity=_touch(h, rng)) for h in groove.pattern.hits)
    return groove.changed(hits=hits)


def _touch(h: Hit, rng: np.random.Generator) -> int:
    centre = h.velocity - (8 if h.voice.startswith("hat") else 0)
    return int(np.clip(round(centre + rng.normal(0, 4.5)), 20, 122))


def recorded(stop: Stop) -> tuple[Groove, bytes]:
    """The groove as played and the WAV file's bytes (16 bit, stereo)."""
    groove = touched(parse_grid(stop.grid).changed(feel=stop.feel, name=stop.name), stop.seed)
    kit = SketchKit(rate=RATE)
    dry = render(perform(groove), kit, lead_s=stop.lead_s, length_s=groove.length_s + 0.6).astype(float)
    wet = in_room(dry, rate=RATE, decay_s=stop.room_s, wet=stop.wet, seed=stop.seed)[: len(dry)]
    rng = np.random.default_rng(stop.seed)
    sound = 0.82 * wet / np.abs(wet).max() + 10 ** (stop.noise_db / 20) * rng.standard_normal(wet.shape)
    fade = round(0.15 * RATE)
    sound[-fade:] *= np.linspace(1, 0, fade)[:, None]
    pcm = np.clip(np.rint(sound * 32767), -32768, 32767).astype("<i2")
    return groove, _wav(pcm)


def truth(groove: Groove, lead_s: float) -> dict[str, object]:
    """What a perfect listener would say of the recording, in the analysis format."""
    pattern, swing = groove.pattern, groove.feel.swing
    onset = perform(groove).onset_s
    straight = groove.tempo.seconds([h.position_ticks for h in pattern.hits])
    hits = []
    for h, at, even in sorted(zip(pattern.hits, onset, straight, strict=True), key=lambda x: x[1]):
        bar, tick = divmod(h.position_ticks, pattern.meter.bar_ticks)
        position = Fraction(tick, TICKS_PER_QUARTER)
        hits.append({
            "time_s": round(float(at) + lead_s, 5), "voice": h.voice, "velocity": h.velocity,
            "ghost": h.role == "ghost", "bar": bar + 1,
            "position_beats": f"{position.numerator}/{position.denominator}",
            "offset_ms": round(1000 * float(at - even), 3),
        } | ({"grace": True} if h.grace else {}))  # fmt: skip
    bars = groove.tempo.seconds([i * pattern.meter.bar_ticks for i in range(pattern.bars + 1)])
    lean = {"kick": "kick", "snare": "snare", "hat": "hat_closed", "ride": "ride"}
    played = {k: v for k, v in lean.items() if any(h.voice.startswith(k) for h in pattern.hits)}
    return {
        "name": groove.name, "tempo_bpm": groove.tempo.main_bpm, "bars": pattern.bars,
        "meter": [pattern.meter.numerator, pattern.meter.denominator], "downbeat_s": lead_s,
        "bars_s": [round(float(b) + lead_s, 5) for b in bars],
        "swing": {"unit": None if swing.straight else SWING_UNITS[swing.unit], "ratio": swing.ratio},
        "pocket_ms": {k: groove.feel.lean_of(v) for k, v in played.items()},
        "hits": hits,
    }  # fmt: skip


MOUTHED = Stop(
    MOUTH,
    """
    tempo 100
    meter 4/4
    hat_closed  --x---x--------- | --x---x-------x- | --x---x--------- | --x---x---------
    hat_open    --------------x- | ---------------- | --------------x- | ----------------
    snare       ----X-------X--- | ----X-------X--- | ----X-------X--- | ----X-------X-X-
    kick        X------x--X----- | X--------xX----- | X------x--X----- | X--------xX-----
    """,
    Feel(Swing(16, 0.55), {"snare": 6.0}, 7.0, 5),
    0.40, 0.30, 0.10, -60, 14,
)  # fmt: skip


def mouth_recorded(stop: Stop) -> tuple[Groove, bytes]:
    """A groove beatboxed by a simulated voice, and the WAV file's bytes (16 bit, mono)."""
    groove = parse_grid(stop.grid).changed(feel=stop.feel, name=stop.name)
    played = perform(groove)
    hits = [
        (float(t) + stop.lead_s, VOICES[v].name, int(x))
        for t, v, x in zip(played.onset_s, played.voice, played.velocity, strict=True)
    ]
    sound = mouthed(hits, rate=RATE, length_s=groove.length_s + stop.lead_s + 0.6, seed=stop.seed, person=3)
    return groove, _wav(np.clip(np.rint(sound[:, None] * 32767), -32768, 32767).astype("<i2"))


def _wav(pcm: np.ndarray) -> bytes:
    out = io.BytesIO()
    with wave.open(out, "wb") as file:
        file.setnchannels(pcm.shape[1])
        file.setsampwidth(2)
        file.setframerate(RATE)
        file.writeframes(pcm.tobytes())
    return out.getvalue()


def make(folder: Path, stops: Sequence[Stop] = (*ROUTE, MOUTHED)) -> None:
    """Write recordings and their truth into a folder, by default all of them."""
    import msgspec

    folder.mkdir(parents=True, exist_ok=True)
    for stop in stops:
        groove, data = mouth_recorded(stop) if stop is MOUTHED else recorded(stop)
        write_whole(folder / f"{stop.name}.wav", lambda file, data=data: file.write(data))  # type: ignore[misc]
        text = msgspec.json.format(msgspec.json.encode(truth(groove, stop.lead_s)), indent=1).decode()
        write_text(folder / f"{stop.name}.json", text + "\n")
        print(f"{stop.name}: {groove.length_s:.1f} s, {len(groove.pattern.hits)} hits")


if __name__ == "__main__":
    make(demo_folder())
