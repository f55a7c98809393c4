"""Make the recorded kit that ships out of a free bank (Debian's `fluid-soundfont-gm`, MIT licence).

Each voice has one recording, the hardest stroke of the bank. Layers between it and the softest come of words of SFZ: a
filter that opens with the blow, a second region with only the attack for hard blows, levels that fall somewhat
steeper than SFZ's own; rounds of small dice of pitch, colour and start. Everything is in the SFZ file.

    python -m tools.kits.depot
"""

import subprocess
import tempfile
from dataclasses import dataclass
from pathlib import Path

import mido
import numpy as np
import soundfile
from numpy.typing import NDArray

from ghoststep.files.safe import write_text
from ghoststep.files.sfz.kit import read_sfz
from ghoststep.sound.loudness import energy
from ghoststep.sound.sketch import sketch_kit

BANK = Path("/usr/share/sounds/sf2/FluidR3_GM.sf2")
OUT = Path("src/ghoststep/sound/data/depot")
RATE = 44100
_EACH_S = 5.0
_LOUD_AT = 96  # the velocity at which voices are set against each other
_LOUDER_DB = -5.0  # than the sketch kit, whose attacks are duller: a hard beat does not go over full scale


@dataclass(frozen=True)
class Source:
    """A voice or stroke. key: of the bank; program: of the bank; at: key in the kit; most_s: what is kept.

    dark_hz, opens: cutoff of the softest blow and how far it moves to the hardest, in cents; snap_hz, snap_db: above
    what, and how much, hard blows have more; decay_s: 0 where the recording rings out; tune: in cents.
    """

    name: str
    key: int
    at: int
    most_s: float
    dark_hz: float
    opens: int
    snap_hz: float = 2500.0
    snap_db: float = 0.0
    decay_s: float = 0.0
    tune: int = 0
    program: int = 0
    choke: int = 0  # the group it belongs to, and is ended by


HAT = 1
SOURCES = (
    Source("kick", 36, 36, 0.8, 420, 4200, 1500, 6.0),
    Source("snare", 38, 38, 0.7, 1500, 4200, 2200, 3.0),
    Source("snare_rim", 40, 91, 0.7, 2500, 3000, 1800, 4.0),
    Source("cross_stick", 37, 37, 0.5, 4000, 2400),
    Source("hat_closed", 42, 42, 0.5, 11000, 1000, choke=HAT),
    Source("hat_half", 46, 23, 1.4, 9500, 1300, decay_s=1.5, choke=HAT),
    Source("hat_open", 46, 46, 2.2, 9500, 1300, choke=HAT),
    Source("hat_pedal", 44, 44, 0.5, 10500, 1000, choke=HAT),
    Source("tom_high", 50, 50, 1.2, 500, 3800, 1200, 6.0),
    Source("tom_mid", 47, 47, 1.3, 450, 3800, 1100, 6.0),
    Source("tom_low", 43, 43, 1.4, 400, 3800, 1000, 6.0),
    Source("tom_floor", 41, 41, 1.6, 350, 3800, 900, 6.0),
    Source("ride", 51, 51, 3.2, 8000, 1600),
    Source("ride_bell", 53, 53, 3.2, 4500, 2400),
    Source("crash", 49, 49, 3.6, 3500, 3000),
    Source("crash_left", 57, 57, 3.4, 3500, 3000, tune=120),
    Source("china", 52, 52, 2.4, 4000, 2600),
    Source("stack", 52, 30, 0.6, 4500, 2200, decay_s=0.35, tune=250),
    Source("splash", 55, 55, 1.8, 4500, 2600),
    Source("cowbell", 56, 56, 0.6, 3000, 2600),
    Source("shaker", 82, 70, 0.4, 6000, 2000),
    Source("clap", 39, 39, 0.6, 3500, 2400),
)
_STEEPER = 2.3  # power of the velocity by which level goes; SFZ's own is 2


def main() -> None:
    """Write the samples, the SFZ file, the map and the notice."""
    OUT.mkdir(parents=True, exist_ok=True)
    files = {}
    for source in SOURCES:
        recorded = f"{source.key}-{source.program}"
        if recorded not in files:
            files[recorded] = f"{source.name}.flac"
            longest = max(s.most_s for s in SOURCES if (s.key, s.program) == (source.key, source.program))
            soundfile.write(OUT / files[recorded], _trimmed(_rendered(source), longest), RATE, subtype="PCM_16")
    gains = dict.fromkeys((s.name for s in SOURCES), 0.0)
    write_text(OUT / "depot.kit.json", _MAP)
    for _ in range(2):  # the second time what the filters took is known
        write_text(OUT / "depot.sfz", _sfz(files, gains))
        gains = {name: db + gains[name] for name, db in _missing_db().items()}
    write_text(OUT / "depot.sfz", _sfz(files, gains))
    text = Path("/usr/share/doc/fluid-soundfont-gm/copyright").read_text("utf-8")
    write_text(
        OUT / "NOTICE.txt", "The recordings of this kit are strokes of the bank below, cut and levelled.\n\n" + text
    )
    size = sum(p.stat().st_size for p in OUT.iterdir())
    print(f"{OUT}: {len(files)} recordings, {size / 1e6:.1f} MB")


_MAP = '{"keys": {"snare/rim": 91, "hat_half": 23, "stack": 30, "shaker": 70}}\n'


def _rendered(source: Source) -> NDArray[np.float32]:
    """The hardest stroke of the bank, dry, in stereo."""
    midi = mido.MidiFile(ticks_per_beat=480)
    track = mido.MidiTrack()
    midi.tracks.append(track)
    track.append(mido.Message("program_change", channel=9, program=source.program))
    track.append(mido.Message("note_on", channel=9, note=source.key, velocity=127))
    track.append(mido.Message("note_off", channel=9, note=source.key, time=round(_EACH_S * 960)))
    with tempfile.TemporaryDirectory() as folder:
        notes, sound = Path(folder) / "notes.mid", Path(folder) / "notes.wav"
        midi.save(notes)
        plain = ["-ni", "-R", "0", "-C", "0", "-g", "0.5", "-r", str(RATE), "-O", "float"]
        subprocess.run(["fluidsynth", *plain, "-F", sound, BANK, notes], check=True, capture_output=True)
        return soundfile.read(sound, dtype="float32", always_2d=True)[0]


def _trimmed(sound: NDArray[np.float32], most_s: float) -> NDArray[np.float32]:
    """From the attack on, faded out at the end, as loud as sixteen bits can hold."""
    loudest = np.abs(sound).max(axis=1)
    first = max(0, int(np.argmax(loudest > 0.02 * loudest.max())) - 8)
    out = sound[first : first + round(most_s * RATE)]
    heard = np.flatnonzero(np.abs(out).max(axis=1) > 3e-4 * loudest.max())
    out = out[: heard[-1] + 1].copy()
    fade = min(len(out), round(0.05 * RATE))
    out[len(out) - fade :] *= np.linspace(1, 0, fade, dtype=np.float32)[:, None]
    return out * np.float32(0.97 / np.abs(out).max())


def _sfz(files: dict[str, str], gains: dict[str, float]) -> str:
    curve = " ".join(f"amp_velcurve_{v}={(v / 127) ** _STEEPER:.5f}" for v in (*range(1, 16, 2), *range(16, 128, 8)))
    lines = [
        "// The recorded kit of Ghost Step, made by tools/kits/depot.py; NOTICE.txt has the licence of its sounds.",
        "<global>",
        f"loop_mode=one_shot amp_random=0.8 pitch_random=5 {curve}",
    ]
    for s in SOURCES:
        sample = f"sample={files[f'{s.key}-{s.program}']}"
        choke = f" group={s.choke} off_by={s.choke}" if s.choke else ""
        decay = f" ampeg_decay={s.decay_s} ampeg_sustain=0" if s.decay_s else ""
        tune = f" tune={s.tune}" if s.tune else ""
        lines += [
            "",
            f"<group> key={s.at}{choke}{decay}{tune} volume={gains[s.name]:.2f} // {s.name}",
            f"<region> {sample} fil_type=lpf_1p cutoff={s.dark_hz:g} fil_veltrack={s.opens} fil_random=90",
        ]
        if s.snap_db:
            level = gains[s.name] + s.snap_db - 12
            lines.append(
                f"<region> {sample} volume={level:.2f} fil_type=hpf_2p cutoff={s.snap_hz:g} fil_random=60"
                " xfin_lovel=20 xfin_hivel=127 xf_velcurve=gain"
            )
    return "\n".join(lines) + "\n"


def _missing_db() -> dict[str, float]:
    """How much louder each voice has to be to stand in the mix as those of the sketch kit do."""
    kit = read_sfz(OUT / "depot.sfz").kit(RATE)
    out = {}
    for s in SOURCES:
        voice, stroke = ("snare", "rim") if s.name == "snare_rim" else (s.name, "plain")
        dice = [np.random.default_rng([5, n]) for n in range(8)]
        found = [energy(kit.blow(voice, _LOUD_AT, one, stroke), RATE) for one in dice]
        wanted = [energy(sketch_kit(RATE).blow(voice, _LOUD_AT, one, stroke), RATE) for one in dice]
        out[s.name] = _LOUDER_DB + 10 * float(np.log10(np.mean(wanted) / np.mean(found)))
    return out


if __name__ == "__main__":
    main()
