"""Files drawn by a seed, some of them broken: what each is read as, or the sentence that refuses it."""

import json
import random
import re
from collections.abc import Callable
from typing import Any

import mido
import msgspec
from tests.golden_drawn import drawn_groove, rows, short
from tests.golden_more import midi_bytes, told
from tools.make_feels import FEELS, feel_of

from ghoststep.feel.blend import blended, with_voices_of
from ghoststep.feel.measure import measured
from ghoststep.feel.perform import perform, perform_passes
from ghoststep.feel.transfer import laid_on
from ghoststep.feel.words import feel_lines, measured_lines
from ghoststep.files import hits, keymap, midi_in, schema, textgrid, textgrid_out
from ghoststep.files.feel_file import feel_bytes
from ghoststep.listen.bars.reading import Hints
from ghoststep.music.errors import InputError
from ghoststep.session.document.document import Document
from ghoststep.work.hits_heard import heard_performance

_KEYS = keymap.general_midi_keys()
_DIVISIONS = (24, 96, 96, 480, 480, 960, 0xE728)  # the last: 25 frames a second of 40 ticks
_RAMP = midi_in.RAMP
_TEXTS = (f"{_RAMP} 96 120 40320", f"{_RAMP} 96", f"{midi_in.GROUPING} 2+2+3", f"{midi_in.GROUPING} 9", "by hand")
_TABLE = "time_s,voice,velocity\n# by hand\n0,kick,90\n0.25, hat_closed\n0.5,snare,30\n0.5,kick,127\n1.75,snare,1\n"


def _events(dice: random.Random, division: int) -> list[tuple[int, mido.Message | mido.MetaMessage]]:
    beat = division if division < 0x8000 else 500
    out: list[tuple[int, mido.Message | mido.MetaMessage]] = []
    for _ in range(dice.randint(1, 24)):
        at = dice.randint(0, 32) * beat // 4 + (dice.randint(-3, 9) if dice.random() < 0.4 else 0)
        note, channel = dice.choice((36, 38, 42, 46, 49, 3)), dice.choice((9, 9, 9, 0))
        out.append((max(at, 0), mido.Message("note_on", channel=channel, note=note, velocity=dice.randint(0, 127))))
    for _ in range(dice.randint(0, 3)):
        at = dice.choice((0, 2 * beat, 4 * beat, 4 * beat, 7 * beat, 5 * beat // 3))
        above, below = dice.choice(((4, 4), (3, 4), (7, 8), (6, 8), (64, 32), (65, 4)))
        out.append((at, mido.MetaMessage("time_signature", numerator=above, denominator=below)))
    for _ in range(dice.randint(0, 3)):
        tempo = dice.choice((500000, 625000, 400000, 62500, 16777215))
        out.append((dice.choice((0, 4 * beat, 9 * beat // 2)), mido.MetaMessage("set_tempo", tempo=tempo)))
    for text in dice.sample(_TEXTS, 2):
        out.append((dice.choice((0, 0, 4 * beat)), mido.MetaMessage("text", text=text)))
    if dice.random() < 0.3:
        out.append((dice.choice((0, 4 * beat, 2 * beat)), mido.MetaMessage("marker", text=dice.choice(("Bar 1", "x")))))
    return out


def _of_division(data: bytes, division: int) -> bytes:
    return data[:12] + division.to_bytes(2, "big") + data[14:]


def midi_files() -> str:
    return "\n".join(_line(n, lambda n=n: _midi_read(n)) for n in range(140))


def _midi_read(seed: int) -> object:
    dice = random.Random(seed)
    division = dice.choice(_DIVISIONS)
    data = _of_division(midi_bytes(*_events(dice, division)), division)
    take = midi_in.parse_midi(data, "yard", _KEYS)
    groove = midi_in.groove_of(take, "yard")
    pattern, tempo = groove.pattern, groove.tempo
    told = [round(take.lead_s, 4), take.left_out, take.moved_lines, pattern.bars, pattern.frame]
    told += [tempo.ticks, [round(b, 3) for b in tempo.bpm], take.tempo_known, take.meter_known]
    return told, rows(pattern), [f"{t:.4f}" for t in take.performance().onset_s]


def _line(name: object, how: Callable[[], object]) -> str:
    try:
        return f"{name}: {short(str(how()))}"
    except InputError as error:
        return f"{name}: ! {error}"
    except msgspec.DecodeError:
        return f"{name}: no such row"


def grids() -> str:
    """Text grids in which one figure is another, or one line is gone or comes twice."""
    return "\n".join(_line(n, lambda n=n: _grid_read(n)) for n in range(300))


def _grid_read(seed: int) -> object:
    dice = random.Random(seed)
    lines = textgrid_out.grid_text(drawn_groove(seed % 90)).splitlines()
    at = dice.randrange(len(lines))
    found = list(re.finditer(r"\d+", lines[at]))
    if found and dice.random() < 0.8:
        one = dice.choice(found)
        n = int(one[0])
        new = dice.choice((n + 1, max(n - 1, 0), 2 * n, 0, 1, n + 100))
        lines[at] = f"{lines[at][: one.start()]}{new}{lines[at][one.end() :]}"
    else:
        lines[at : at + 1] = [lines[at]] * dice.choice((0, 2))
    groove = textgrid.parse_grid("\n".join(lines))
    pattern = groove.pattern
    whole = (pattern.frame, pattern.bars, told(groove.feel), groove.tempo, told(pattern.rules))
    return whole, pattern.passages, pattern.lane_grids, rows(pattern)


def projects() -> str:
    """Rows of projects in which some values are others; of what is no row at all only that is told."""
    heard = heard_performance(perform(drawn_groove(7)), "yard", Hints(tempo_bpm=96))
    data = [
        msgspec.json.encode(schema.document_row(document, None))
        for document in (Document("yard", drawn_groove(11)), heard, Document("yard", drawn_groove(40)))
    ]
    return "\n".join(_line(n, lambda n=n: _project_read(data[n % 3], n)) for n in range(600))


def _project_read(data: bytes, seed: int) -> object:
    content, dice = json.loads(data), random.Random(seed)
    for _ in range(dice.randint(1, 3)):
        _revalued(content, dice)
    document = schema.document_from(schema.decoded(json.dumps(content).encode()))
    text = schema.encoded(schema.document_row(document, None)).decode()
    return _rounded(text)


def _revalued(node: Any, dice: random.Random) -> None:
    """Walk down to some value and make it another of its kind."""
    while True:
        key = dice.choice(list(node) if isinstance(node, dict) else range(len(node)))
        old = node[key]
        if not isinstance(old, dict | list):
            break
        if not old:
            return
        node = old
    if isinstance(old, bool):
        node[key] = not old
    elif isinstance(old, int):
        node[key] = dice.choice((0, 1, -1, old + 1, old - 1, -old, 127, 128, 2 * old, old * 1000))
    elif isinstance(old, float):
        node[key] = dice.choice((0.0, 1.0, -old, 10 * old, 1.01, 1e9))
    else:
        node[key] = dice.choice(("", "gong", "snare", "flam", "ghost"))


def feels() -> str:
    """Feels measured in drawn grooves, laid on other ones and blended, as they are written and told."""
    return "\n".join(_line(n, lambda n=n: _felt(n)) for n in range(60))


def _felt(seed: int) -> str:
    groove, other = drawn_groove(seed), drawn_groove(seed + 500)
    found = measured(groove)
    player = found.feel if seed % 2 else blended(found.feel, feel_of(FEELS[seed % 7]), 0.3)
    voices = groove.pattern.voices[:2] if seed % 3 == 0 else None
    laid, words = laid_on(player, other, touch=(0.0, 0.5, 1.0)[seed % 3], time=(1.0, 0.7)[seed % 2], voices=voices)
    mixed = with_voices_of(laid, found.feel, ["snare"])
    told = [*measured_lines(found), *words, *feel_lines(mixed)]
    texts = [feel_bytes(f, "x").decode() for f in (found.feel, player, laid, mixed)]
    played = perform_passes(other.changed(feel=laid), 2)
    texts += [f"{t:.6f} {v}" for t, v in zip(played.onset_s, played.velocity, strict=True)]
    return _rounded("\n".join(told + texts))


def _rounded(text: str) -> str:
    """Without the last decimals, which hang on the machine: rounded where no plain figure lies on the edge."""
    return re.sub(r"-?\d+\.\d+(e-?\d+)?", lambda m: f"{round(float(m[0]) + 0.00137, 2) + 0.0:.2f}", text)


def tables() -> str:
    """Tables of hits and key maps in which a figure or a word is another one."""
    keys = _KEYS.as_csv()
    lines = [
        _line(f"hits {n}", lambda n=n: hits.hits_text(hits.parse_hits(_reworded(_TABLE, n), "x"))) for n in range(90)
    ]
    return "\n".join(
        lines + [_line(f"keys {n}", lambda n=n: keymap.parse_keys(_reworded(keys, n), "x")) for n in range(60)]
    )


def _reworded(text: str, seed: int) -> str:
    dice = random.Random(seed)
    found = list(re.finditer(r"[\w.]+", text))
    for one in sorted(dice.sample(found, dice.randint(0, 2)), key=lambda m: -m.start()):
        new = dice.choice(("0", "1", "127", "128", "-1", "21600", "21601", "gong", "", "#", "1,2", "kick"))
        text = f"{text[: one.start()]}{new}{text[one.end() :]}"
    return text
