"""What a MIDI file states of tempo and bars, what its hits say, and which of the two is taken."""

from pathlib import Path

import mido
import pytest

from ghoststep.cli.main import main
from ghoststep.files.keymap import general_midi_keys
from ghoststep.files.midi_in import parse_midi, read_midi
from ghoststep.files.midi_out import write_midi
from ghoststep.files.textgrid import parse_grid
from ghoststep.listen.bars.reading import Hints
from ghoststep.music.errors import InputError
from ghoststep.music.groove import Groove
from ghoststep.music.meter import Meter
from ghoststep.session.document.document import Document
from ghoststep.work.midi_heard import hear_midi
from ghoststep.work.trust import Trust

KEYS = general_midi_keys()
EVEN = "tempo 110\nkick X-----x-X-------\nsnare ----X-------X---\nhat_closed x-x-x-x-x-x-x-x-"
ELEVEN = "tempo 110\nmeter 11/4 4+4+3\nkick X---x---X---x---X---x---X---x---X---x---X---\nhat_closed " + "x-" * 22
THREE_FOUR = "tempo 90\nkick X-------X-------\nsnare/12 x---x---x---\nhat_closed x---x---x---x---"
SWUNG = "tempo 100\nswing 16 0.57\nkick X-----x-X-------\nsnare ----X--o----X--o\nhat_closed xxxxxxxxxxxxxxxx"
SHUFFLE = "tempo 140\nswing 8 0.66\nkick X-----x-X-------\nsnare ----X-------X---\nride x-x-x-x-x-x-x-x-"
MIXED = """
tempo 96
bar 2 meter 7/8 2+2+3
bar 3 meter 4/4
bar 2 tempo 96 -> 120 over 2
hat_closed x-x-x-x-x-x-x-x- | x-x-x-x-x-x-x- | x-x-x-x-x-x-x-x- | x-x-x-x-x-x-x-x-
snare      ----X-------X--- | ----X-----X--- | ----X-------X--- | ----X-------X---
kick       X------x--X----- | X-----x------- | X------x--X----- | X------x--X-----
"""


def heard(tmp_path: Path, grid: str, trust: Trust = Trust.COMPARE) -> Document:
    path = tmp_path / "a.mid"
    write_midi(path, parse_grid(grid), KEYS)
    return hear_midi(read_midi(path, KEYS), "a", Hints(), trust)


def score(groove: Groove) -> list[tuple[int, str]]:
    return [(h.position_ticks, h.voice) for h in groove.pattern.hits]


LAZY = "tempo 96\nlean snare +28\nloose 5\nkick X-----x-X-------\nsnare ----X--o----X--o\nhat_closed x-x-x-x-x-x-x-x-"
EAGER = "tempo 140\nswing 8 0.62\nlean snare -18\nloose 5\nkick X-------X-------\nsnare ----X--o----X---\nride x-x-x-x-"
EAGER += "x-x-x-x-"


@pytest.mark.parametrize("grid", [EVEN, ELEVEN, THREE_FOUR, SWUNG, SHUFFLE, MIXED, LAZY, EAGER])
def test_what_fits_is_taken_as_the_file_states_it(tmp_path: Path, grid: str) -> None:
    meant, found = parse_grid(grid), heard(tmp_path, grid)
    assert found.listening is not None and "that was taken" in " ".join(found.listening.remarks)
    assert score(found.groove) == score(meant)
    assert found.groove.pattern.frame.up_to(meant.pattern.bars) == meant.pattern.frame
    assert found.groove.tempo.main_bpm == pytest.approx(meant.tempo.main_bpm, rel=1e-4)
    assert found.groove.feel.swing.ratio == pytest.approx(
        meant.feel.swing.ratio, abs=0.03 if meant.feel.loose_ms else 0.005
    )


def unstated(bpm: float, spread: float = 0.0) -> bytes:
    """A performance at some tempo in a file that says 120."""
    file = mido.MidiFile(ticks_per_beat=960)
    track = mido.MidiTrack([mido.MetaMessage("set_tempo", tempo=500_000, time=0)])
    file.tracks.append(track)
    at = 0
    moments = sorted(
        (round((i * 60 / bpm / 2 + 0.11) * 1920), key) for i in range(32) for key in (42, 36 if i % 4 == 0 else 38)
        if key == 42 or i % 2 == 0
    )  # fmt: skip
    for tick, key in moments:
        track.append(mido.Message("note_on", channel=9, note=key, velocity=90, time=tick - at))
        at = tick
    import io

    out = io.BytesIO()
    file.save(file=out)
    return out.getvalue()


def test_what_does_not_fit_is_heard_anew_and_can_be_forced() -> None:
    take = parse_midi(unstated(97.3), "a", KEYS)
    anew = hear_midi(take, "a", Hints())
    assert anew.groove.tempo.main_bpm == pytest.approx(97.3, rel=0.01)
    assert anew.listening is not None and "heard anew" in " ".join(anew.listening.remarks)
    forced = hear_midi(take, "a", Hints(), Trust.FILE)
    assert forced.groove.tempo.main_bpm == 120
    assert forced.listening is not None and "that was taken" in " ".join(forced.listening.remarks)


def test_the_file_can_be_left_aside(tmp_path: Path) -> None:
    found = heard(tmp_path, EVEN, Trust.HITS)
    assert found.listening is not None and "left aside" in " ".join(found.listening.remarks)
    assert found.groove.tempo.main_bpm == pytest.approx(110, rel=0.01)


def signed(*changes: tuple[int, int, int], notes: int = 24) -> bytes:
    """Eighths at 96 BPM, with time signatures (tick, numerator, denominator) at 480 ticks to a quarter."""
    import io

    file = mido.MidiFile(ticks_per_beat=480)
    events = [(t, mido.MetaMessage("time_signature", numerator=a, denominator=b)) for t, a, b in changes]
    first = changes[0][0]
    events += [(first + 240 * i, mido.Message("note_on", channel=9, note=42, velocity=90)) for i in range(notes)]
    events.append((0, mido.MetaMessage("set_tempo", tempo=625_000)))
    track, at = mido.MidiTrack(), 0
    for tick, message in sorted(events, key=lambda e: (e[0], not e[1].is_meta)):
        track.append(message.copy(time=tick - at))
        at = tick
    file.tracks.append(track)
    out = io.BytesIO()
    file.save(file=out)
    return out.getvalue()


def test_the_first_signature_begins_bar_1_and_seconds_are_the_files() -> None:
    take = parse_midi(signed((240, 4, 4)), "a", KEYS)
    assert take.ticks[0] == 0 and take.lead_s == pytest.approx(0.3125)
    found = hear_midi(take, "a", Hints())
    assert found.listening is not None and found.listening.explained.start_s == pytest.approx(0.3125)
    assert found.groove.pattern.hits[0].position_ticks == 0
    assert found.groove.pattern.hits[0].origin.time_s == pytest.approx(0.3125)


def test_every_signature_begins_a_bar() -> None:
    bars = parse_midi(signed((0, 4, 4), (1920, 7, 8), (3600, 3, 4)), "a", KEYS).bars
    assert [str(bars.meter_of(b)) for b in (1, 2, 3)] == ["4/4", "7/8", "3/4"]
    # Off the bar line the bar before is cut where it stands.
    bars = parse_midi(signed((0, 4, 4), (1920 + 720, 3, 4)), "a", KEYS).bars
    assert [str(bars.meter_of(b)) for b in (1, 2, 3)] == ["4/4", "3/8", "3/4"]
    assert bars.start_of(3) == (4 + 1.5) * 20160
    odd = parse_midi(signed((0, 4, 4), (1920 + 7, 3, 4)), "a", KEYS)
    assert odd.moved_lines == 1 and odd.bars.meter_of(2) == Meter(3, 4)


def test_trusting_needs_something_to_trust(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    file = mido.MidiFile(ticks_per_beat=480)
    notes = [mido.Message("note_on", channel=9, note=42, velocity=90, time=240) for _ in range(16)]
    file.tracks.append(mido.MidiTrack(notes))
    file.save(tmp_path / "plain.mid")
    with pytest.raises(InputError, match="nothing to trust"):
        hear_midi(read_midi(tmp_path / "plain.mid", KEYS), "plain", Hints(), Trust.FILE)
    (tmp_path / "e.mid").write_bytes(unstated(97.3))
    assert main(["listen", str(tmp_path / "e.mid"), "--trust-file"]) == 0
    assert "120.0 BPM" in capsys.readouterr().out
    assert main(["listen", str(tmp_path / "e.mid"), "--ignore-file"]) == 0
    assert "97.3 BPM" in capsys.readouterr().out
