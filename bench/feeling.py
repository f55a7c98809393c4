"""How good the feel is: what is set against what comes out, what is played against what is measured."""

import io
from dataclasses import replace

import mido
import numpy as np
from numpy.typing import NDArray

from bench.timing import best_s, say
from ghoststep.feel.fluctuation import exponent
from ghoststep.feel.looseness import Pass, Strokes, time_deviations_ms
from ghoststep.feel.measure import measured, strokes_of
from ghoststep.feel.perform import perform
from ghoststep.feel.transfer import laid_on
from ghoststep.files.keymap import general_midi_keys
from ghoststep.files.midi_in import groove_of, parse_midi
from ghoststep.files.midi_out import midi_file
from ghoststep.files.textgrid import parse_grid
from ghoststep.listen.bars.explain import explain
from ghoststep.music.feel import Feel, Swing
from ghoststep.music.groove import Groove
from ghoststep.music.player import SpotFeel, Wander

Floats = NDArray[np.float64]
BAR = 80640
LANES = {
    "hat_closed": ["x-x-x-x-x-x-x-xx"] * 8,
    "snare": ["----X--o-o--X--o", "----X--o-o--X---"] * 4,
    "kick": ["X------x--X-----"] * 8,
}
OTHER = {
    "hat_closed": ["x-x-x-x-x-x-x-x-", "x-x-x-x-x-x-x-xx"] * 4,
    "snare": ["----X--o----X---"] * 8,
    "kick": ["X---------X-----", "X------x--X-----"] * 4,
}
SPOTS = (SpotFeel("snare", BAR, 60480, 5.0, (0, 0, 118)), SpotFeel("hat_closed", BAR, 10080, -4.0, (0, 60, 0)))
PLAYER = Feel(Swing(16, 0.56), {"snare": 9, "hat_closed": -3}, spots=SPOTS)


def text_of(lanes: dict[str, list[str]], bpm: int) -> str:
    return f"tempo {bpm}\n" + "\n".join(f"{name} {' | '.join(bars)}" for name, bars in lanes.items())


def run() -> None:
    _exact()
    _speed()
    _wandering()
    _passes()
    _found_again()
    _laid()
    _blind()


def _exact() -> None:
    """Swing and lean in MIDI, in ticks of 960."""
    groove = parse_grid(text_of(LANES, 97)).changed(feel=PLAYER)
    played, ticks = perform(groove), _midi_ticks(groove)
    wanted = np.sort(np.asarray(groove.tempo.to_ticks(played.onset_s)) / 21)
    say("swing and lean in MIDI, worst", f"{np.abs(np.sort(ticks) - wanted).max():.3f} ticks", "0.5 asked")


def _midi_bytes(groove: Groove) -> bytes:
    out = io.BytesIO()
    _, write = midi_file(groove, general_midi_keys(), division=960)
    write(out)
    return out.getvalue()


def _midi_ticks(groove: Groove) -> Floats:
    """Ticks of the notes from bar 1 on (the bar that is put ahead for early strokes is taken off)."""
    file = mido.MidiFile(file=io.BytesIO(_midi_bytes(groove)))
    now, out, start = 0, [], 0
    for message in mido.merge_tracks(file.tracks):
        now += message.time
        if message.type == "marker":
            start = now
        if message.type == "note_on" and message.velocity:
            out.append(now)
    return np.array(out, float) - start


def _speed() -> None:
    dense = {
        "hat_closed": ["x" * 16] * 1000, "snare": ["----X--o-o--X--o"] * 1000, "kick": ["X-----x-X-x-----"] * 1000,
    }  # fmt: skip
    groove = parse_grid(text_of(dense, 120))
    for name, feel in (
        ("plain", Feel()),
        ("swung, leaning, loose", replace(PLAYER, loose_ms=5.0)),
        ("a whole player", replace(PLAYER, loose_ms=5.0, wander=Wander(velocity=5, softer=0.3, tempo_percent=0.3))),
    ):
        taken_s = _performed_s(groove.changed(feel=feel))
        say(f"1,000 dense bars performed, {name}", f"{taken_s:.2f} s", "0.5 s asked")


def _performed_s(groove: Groove) -> float:
    return best_s(lambda: perform(groove), times=3)


def _wandering() -> None:
    """5,000 hats: spread, exponent and correlation against what was set; the worst of ten takes each."""
    times: Floats = np.arange(5000, dtype=np.float64) * 0.15
    hats = Strokes(times, ["R"] * 5000, np.full(5000, 72.0))
    for b in (0.2, 0.6, 1.0, 1.3):
        rows = [time_deviations_ms(hats, Pass(750.0, 0, (0, t)), Wander(exponent=b), 5.0) for t in range(10)]
        spread = max(abs(ms.std() / 5 - 1) for ms in rows)
        off = max(abs(exponent(ms) - b) for ms in rows)
        say(
            f"5,000 hats, exponent {b}: spread off, exponent off", f"{100 * spread:.1f} %, {off:.2f}", "5 %, 0.15 asked"
        )
    both = Strokes(np.repeat(times[:2500] * 2, 2), ["R", "K"] * 2500, np.full(5000, 72.0))
    off = max(
        abs(np.corrcoef(ms[::2], ms[1::2])[0, 1] - shared)
        for shared in (0.3, 0.64, 0.9)
        for t in range(5)
        for ms in [time_deviations_ms(both, Pass(750.0, 0, (0, t)), Wander(shared=shared), 5.0)]
    )
    say("correlation of two limbs off", f"{off:.3f}", "0.05 asked")


def _passes() -> None:
    groove = parse_grid(text_of(LANES, 96)).changed(feel=Feel(loose_ms=5.0))
    still = perform(groove.changed(feel=Feel())).onset_s
    passes = 1000 * (np.array([perform(groove, n).onset_s for n in range(60)]) - still)
    say(
        "spread between passes, within them",
        f"{passes.std(axis=0).mean():.2f}, {passes.std(axis=1).mean():.2f} ms",
        "5",
    )


def _found_again() -> None:
    """explain(perform(p, f)) over 40 takes of 8 bars at a looseness of 5 ms: median, nine of ten, worst."""
    rows, same = [], 0
    for take in range(40):
        groove = parse_grid(text_of(LANES, 100)).changed(feel=replace(PLAYER, loose_ms=5.0, take=take))
        found = explain(perform(groove)).groove
        now = measured(found).feel
        same += [(h.position_ticks, h.voice) for h in found.pattern.hits] == [
            (h.position_ticks, h.voice) for h in groove.pattern.hits
        ]
        true, got = (_means(g) for g in (groove.changed(feel=PLAYER), found.changed(feel=replace(now, loose_ms=0.0))))
        leans = [abs(_of_voice(got, v) - _of_voice(true, v)) for v in LANES]
        spots = [abs(got[key] - true[key]) for key in true]
        rows.append([abs(now.swing.ratio - 0.56), max(leans), float(np.mean(spots)), abs(now.loose_ms / 5 - 1)])
    say("the pattern found again", f"{same} of 40", "all asked")
    for name, values, asked in zip(
        ("swing", "lean of the worst voice, ms", "lean of spots, mean, ms", "looseness, share"),
        np.array(rows).T,
        ("0.005", "1", "2", "0.2"),
        strict=True,
    ):
        middle, high = np.quantile(values, [0.5, 0.9])
        say(f"  {name}: median, nine of ten, worst", f"{middle:.3f}, {high:.3f}, {values.max():.3f}", f"{asked} asked")


def _means(groove: Groove) -> dict[tuple[str, int], float]:
    """Mean deviation from the straight grid by voice and spot, in ms, without the hits' own."""
    bare = groove.changed(hits=tuple(replace(h, offset_ms=0.0) for h in groove.pattern.hits))
    heard = strokes_of(bare)
    rows: dict[tuple[str, int], list[float]] = {}
    for (name, _, at), ms in zip(heard.keys, heard.late_ms, strict=True):
        rows.setdefault((name, at), []).append(float(ms))
    return {key: float(np.mean(row)) for key, row in rows.items()}


def _of_voice(means: dict[tuple[str, int], float], name: str) -> float:
    return float(np.mean([ms for (v, _), ms in means.items() if v == name]))


def _laid() -> None:
    """From the MIDI of a known player onto another pattern of the same grid and tempo, steady and loose."""
    for loose in (0.0, 4.0):
        source = parse_grid(text_of(LANES, 100)).changed(
            feel=replace(PLAYER, loose_ms=loose, wander=Wander(velocity=loose))
        )
        read = groove_of(parse_midi(_midi_bytes(source), "player", general_midi_keys()), "player")
        theirs = _rows(read)
        target = parse_grid(text_of(OTHER, 100))
        feel = laid_on(measured(read).feel, target)[0]
        ours = _rows(target.changed(feel=replace(feel, loose_ms=0.0, wander=Wander())))
        ms = max(abs(ours[key][0] - theirs[key][0]) for key in ours)
        velocity = max(abs(ours[key][1] - theirs[key][1]) for key in ours)
        say(f"laid on, player loose by {loose:g} ms: worst spot", f"{ms:.2f} ms, {velocity:.1f}", "1 ms, 3 asked")


def _rows(groove: Groove) -> dict[tuple[str, int], tuple[float, float]]:
    heard = strokes_of(groove)
    rows: dict[tuple[str, int], list[tuple[float, float]]] = {}
    for (name, _, at), ms, x in zip(heard.keys, heard.late_ms, heard.velocity, strict=True):
        rows.setdefault((name, at), []).append((float(ms), float(x)))
    return {key: (float(np.mean(row, axis=0)[0]), float(np.mean(row, axis=0)[1])) for key, row in rows.items()}


def _blind() -> None:
    """Straight dice, a take of ours and a player's own bars, by figures: 64 bars of hats, 5 ms, velocities by 5."""
    hats = parse_grid(text_of({"hat_closed": ["x-x-x-x-x-x-x-x-"] * 64}, 96))
    eighths = range(0, BAR, 10080)
    accents = tuple(SpotFeel("hat_closed", BAR, t, 0.0, (0, 80 - 18 * (t % 20160 // 10080), 0)) for t in eighths)
    player = Feel(Swing(16, 0.5), {}, 5.0, spots=accents, wander=Wander(exponent=0.9, velocity=5, softer=0.3))
    own = hats.changed(feel=replace(player, seed=7))
    ours = hats.changed(feel=replace(laid_on(measured(own).feel, hats)[0], take=3))
    dice = np.random.default_rng(4)
    still = perform(hats)
    velocities = np.clip(still.velocity + dice.normal(0, 5, len(still)), 1, 127)
    thrown = (still.onset_s + dice.normal(0, 5e-3, len(still)), velocities)
    for name, (onset, velocity) in (
        ("straight dice", thrown),
        ("a take of ours", (perform(ours).onset_s, perform(ours).velocity)),
        ("the player's own bars", (perform(own).onset_s, perform(own).velocity)),
    ):
        ms, x = 1000 * (onset - still.onset_s), np.rint(velocity)
        lag = [float(np.corrcoef(v[:-1], v[1:])[0, 1]) for v in (ms, x)]
        equal = float(np.mean(x[1:] == x[:-1]))
        say(
            f"{name}: spread ms, velocity",
            f"{ms.std():.1f}, {x.std():.1f}",
            f"lag-1 {lag[0]:+.2f}, {lag[1]:+.2f}; exponent {exponent(ms):.2f}; equal neighbours {100 * equal:.0f} %",
        )


if __name__ == "__main__":
    run()
