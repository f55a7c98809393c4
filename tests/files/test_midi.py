import io
from pathlib import Path

import mido
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from tests.strategies import grooves

from ghoststep.feel.perform import perform
from ghoststep.files.keymap import general_midi_keys
from ghoststep.files.midi_in import groove_of, parse_midi, read_midi
from ghoststep.files.midi_out import write_midi
from ghoststep.files.textgrid import parse_grid
from ghoststep.music.errors import InputError
from ghoststep.music.feel import Feel, Swing
from ghoststep.music.groove import Groove
from ghoststep.music.time import TempoMap

KEYS = general_midi_keys()


def as_bytes(*tracks: list[mido.Message], kind: int = 1, division: int = 480) -> bytes:
    file = mido.MidiFile(type=kind, ticks_per_beat=division)
    for messages in tracks:
        file.tracks.append(mido.MidiTrack(messages))
    out = io.BytesIO()
    file.save(file=out)
    return out.getvalue()


def note(key: int = 36, velocity: int = 90, after: int = 0, channel: int = 9) -> mido.Message:
    return mido.Message("note_on", channel=channel, note=key, velocity=velocity, time=after)


@given(grooves, st.sampled_from([96, 480, 960, 20160]), st.sampled_from([0, 1]))
@settings(max_examples=60, deadline=None)
def test_every_moment_comes_back_within_half_a_tick(
    tmp_path_factory: pytest.TempPathFactory, groove: Groove, division: int, kind: int
) -> None:
    path = tmp_path_factory.mktemp("midi") / "a.mid"
    written = write_midi(path, groove, KEYS, division=division, kind=kind)
    if not groove.pattern.hits:
        with pytest.raises(InputError, match="no notes"):
            read_midi(path, KEYS)
        return
    take = read_midi(path, KEYS)
    assert written.notes == len(groove.pattern.hits) == len(take.ticks)
    meant = np.sort(groove.tempo.to_ticks(perform(groove).onset_s))
    assert np.abs(np.sort(take.ticks) - meant).max() <= 0.5 * 20160 / division + 1e-6
    assert take.bars.first == groove.pattern.meter
    assert take.tempo.main_bpm == pytest.approx(groove.tempo.main_bpm, rel=1e-5)
    assert sorted(take.velocity) == sorted(h.velocity for h in groove.pattern.hits)


def test_score_and_deviations_come_back_as_they_were(tmp_path: Path, grid_text: str) -> None:
    groove = parse_grid(grid_text).changed(feel=Feel(Swing(16, 0.57), {"snare": 12.0, "kick": -3.0}))
    path = tmp_path / "a.mid"
    assert write_midi(path, groove, KEYS, division=20160).lead_bars == 1
    back = groove_of(read_midi(path, KEYS))
    assert [(h.position_ticks, h.voice, h.role) for h in back.pattern.hits] == [
        (h.position_ticks, h.voice, h.role) for h in groove.pattern.hits
    ]
    assert np.allclose(np.sort(perform(back).onset_s), np.sort(perform(groove).onset_s), atol=2e-5)
    assert back.pattern.bars == 2


def test_a_straight_grid_needs_no_lead_and_has_no_deviation(tmp_path: Path, grid_text: str) -> None:
    path = tmp_path / "a.mid"
    assert write_midi(path, parse_grid(grid_text), KEYS).lead_bars == 0
    assert all(h.offset_ms == 0 for h in groove_of(read_midi(path, KEYS)).pattern.hits)


@pytest.mark.parametrize(("division", "kind"), [(0, 1), (23, 1), (20161, 1), (960, 2)])
def test_bad_settings_are_refused(tmp_path: Path, division: int, kind: int) -> None:
    with pytest.raises(InputError):
        write_midi(tmp_path / "a.mid", Groove(), KEYS, division=division, kind=kind)
    assert not list(tmp_path.iterdir())


def test_drums_on_another_channel_and_unknown_keys_are_read() -> None:
    take = parse_midi(
        as_bytes([note(channel=0), note(38, after=480, channel=0), note(99, after=480, channel=0)]), "a", KEYS
    )
    assert len(take.ticks) == 2 and take.left_out == 1 and not take.tempo_known
    with pytest.raises(InputError, match="key map"):
        parse_midi(as_bytes([note(99)]), "a", KEYS)


def test_type_2_smpte_and_riff_are_read() -> None:
    first = [mido.MetaMessage("track_name", name="x")]
    two = parse_midi(as_bytes(first, [note(), note(after=480)], [note(38)], kind=2), "a", KEYS)
    assert len(two.ticks) == 2
    plain = as_bytes([note(), note(38, after=50)])
    smpte = plain[:12] + bytes([256 - 25, 40]) + plain[14:]  # 25 frames of 40 ticks: a tick is a millisecond
    assert np.ptp(parse_midi(smpte, "a", KEYS).performance().onset_s) == pytest.approx(0.050)
    riff = b"RIFF" + (len(plain) + 12).to_bytes(4, "little") + b"RMIDdata" + len(plain).to_bytes(4, "little") + plain
    assert len(parse_midi(riff, "a", KEYS).ticks) == 2


def test_running_status_and_tempo_changes_are_read() -> None:
    track = bytes([0, 0x99, 36, 90, 96, 38, 80, 96, 42, 70, 0, 0xFF, 0x2F, 0])
    data = b"MThd" + bytes([0, 0, 0, 6, 0, 0, 0, 1, 0, 96]) + b"MTrk" + len(track).to_bytes(4, "big") + track
    assert np.diff(parse_midi(data, "a", KEYS).performance().onset_s).tolist() == [0.5, 0.5]
    tempo = [mido.MetaMessage("set_tempo", tempo=500000), mido.MetaMessage("set_tempo", tempo=1000000, time=480)]
    take = parse_midi(as_bytes(tempo, [note(), note(after=480), note(after=480)]), "a", KEYS)
    assert np.diff(take.performance().onset_s).tolist() == [0.5, 1.0] and take.tempo_known


GOOD = as_bytes([note(), note(38, after=480), note(42, after=480)])
HOSTILE = {
    "empty": b"",
    "text": b"hello there, this is no midi",
    "no track": as_bytes(),
    "no notes": as_bytes([mido.MetaMessage("text", text="x")]),
    "division 0": GOOD[:12] + b"\0\0" + GOOD[14:],
    "type 9": GOOD[:9] + b"\x09" + GOOD[10:],
    "cut": GOOD[:30],
    "header only": GOOD[:14],
    "long length": GOOD[:18] + b"\x7f\xff\xff\xff" + GOOD[22:],
    "run of ff": GOOD[:22] + b"\xff" * 400_000,
    "high deltas": GOOD[:22] + b"\xfe" * 200,
    "far": as_bytes([note(), note(after=(1 << 28) - 1)]),
    "bad key": GOOD[:22] + bytes([0, 0xFF, 0x59, 2, 99, 7]) + GOOD[22:],
}


@pytest.mark.parametrize("name", HOSTILE)
def test_hostile_files_are_refused(name: str) -> None:
    with pytest.raises(InputError, match=r"MIDI|notes|bars"):
        parse_midi(HOSTILE[name], "a.mid", KEYS)


@given(st.lists(st.tuples(st.integers(14, len(GOOD) - 1), st.integers(0, 255)), max_size=12), st.integers(0, len(GOOD)))
@settings(max_examples=60, deadline=None)
def test_damaged_bytes_are_read_or_refused_and_nothing_else(changes: list[tuple[int, int]], cut: int) -> None:
    data = bytearray(GOOD)
    for at, value in changes:
        data[at] = value
    try:
        take = parse_midi(bytes(data[: max(cut, 0)] if cut % 3 == 0 else data), "a.mid", KEYS)
        assert len(take.ticks)
        groove_of(take)
    except InputError as error:
        assert len(str(error)) > 10


def test_a_tempo_no_midi_file_can_hold_is_limited(tmp_path: Path) -> None:
    groove = parse_grid("kick X---x---X---x---").changed(tempo=TempoMap.constant(10))
    write_midi(tmp_path / "a.mid", groove, KEYS)
    assert read_midi(tmp_path / "a.mid", KEYS).tempo.main_bpm == pytest.approx(10, rel=1e-5)
