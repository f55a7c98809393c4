"""A groove of changing meters and a moving tempo through every format and back."""

from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given, settings
from tests.strategies import whole_grooves

from ghoststep.cli.main import main
from ghoststep.feel.perform import perform
from ghoststep.files.keymap import general_midi_keys
from ghoststep.files.midi_in import groove_of, read_midi
from ghoststep.files.midi_out import write_midi
from ghoststep.files.project import load_project, save_project
from ghoststep.files.textgrid import parse_grid
from ghoststep.files.textgrid_out import grid_text
from ghoststep.music.feel import Feel
from ghoststep.music.groove import Groove
from ghoststep.session.document.document import Document
from ghoststep.work.opening import open_groove

KEYS = general_midi_keys()
DIVISION = 960
SONG = """
tempo 96
meter 4/4
grid 16
bar 2 meter 7/8 2+2+3
bar 3 meter 4/4
bar 2 tempo 96 -> 120 over 2
hat_closed x-x-x-x-x-x-x-x- | x-x-x-x-x-x-x- | x-x-x-x-x-x-x-x- | x-x-x-x-x-x-x-x-
snare      ----X--o-o--X--o | ----X---X--o-- | ----X--o-o--X--o | ----X--o-o--X---
kick       X------x--X----- | X-------x----- | X------x--X---x- | X------x--X-----
"""


def in_ticks(groove: Groove, other: Groove) -> float:
    """How far the moments of another groove are off, at most, in ticks of a MIDI file at the groove's own tempo."""
    meant, found = (np.sort(perform(g).onset_s) for g in (groove, other))
    assert len(meant) == len(found)
    a, b = groove.tempo.to_ticks(meant), groove.tempo.to_ticks(found)
    return float(np.abs(a - b).max(initial=0.0)) * DIVISION / 20160


def test_the_song_goes_round_by_commands(tmp_path: Path) -> None:
    first = tmp_path / "song.grid.txt"
    first.write_text(SONG)
    song = parse_grid(SONG)
    path = first
    for ending in (".ghoststep", ".mid", ".grid.txt", ".mid", ".ghoststep", ".grid.txt"):
        target = tmp_path / f"next-{len(list(tmp_path.iterdir()))}{ending}"
        assert main(["edit", str(path), "-o", str(target)]) == 0
        path = target
        back = open_groove(path, KEYS)
        assert in_ticks(song, back) <= 0.5
        assert back.pattern.frame.up_to(song.pattern.bars) == song.pattern.frame and back.tempo == song.tempo
        same = [(h.position_ticks, h.voice, h.velocity, h.role) for h in back.pattern.hits]
        assert same == [(h.position_ticks, h.voice, h.velocity, h.role) for h in song.pattern.hits]


def plain(groove: Groove) -> Groove:
    """Without what a MIDI file spells out as notes or cannot say."""
    kept = [replace(h, ornament="", length_ticks=0, grace=False) for h in groove.pattern.hits]
    alone = {(h.position_ticks, h.voice): h for h in kept}
    feel = Feel(groove.feel.swing, groove.feel.lean_ms)
    return groove.changed(hits=tuple(alone.values()), feel=feel)


@given(whole_grooves)
@settings(max_examples=50, deadline=None)
def test_every_hit_comes_back_within_half_a_tick(tmp_path_factory: pytest.TempPathFactory, groove: Groove) -> None:
    groove = plain(groove)
    path = tmp_path_factory.mktemp("round")
    save_project(path / "a.ghoststep", Document("a", groove))
    assert load_project(path / "a.ghoststep").groove == groove
    assert in_ticks(groove, parse_grid(grid_text(groove))) <= 1e-6
    if not groove.pattern.hits:
        return
    write_midi(path / "a.mid", groove, KEYS, division=DIVISION)
    take = read_midi(path / "a.mid", KEYS)
    meant = np.sort(groove.tempo.to_ticks(perform(groove).onset_s))
    assert np.abs(np.sort(take.ticks) - meant).max() * DIVISION / 20160 <= 0.5 + 1e-6
    back = groove_of(take).pattern  # it ends with the bar of its last note
    assert back.frame.up_to(back.bars) == groove.pattern.frame.up_to(back.bars)
