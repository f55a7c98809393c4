"""More of what is compared with tests/golden: files that are read, tables, names of stickings, grooves that follow."""

import io
from dataclasses import fields, replace

import mido

from ghoststep.craft import accents, ghosts
from ghoststep.feel.ornaments import spelled_out
from ghoststep.feel.perform import perform
from ghoststep.files import hits, midi_in, schema, textgrid
from ghoststep.files.keymap import general_midi_keys
from ghoststep.judge import hands as judge_hands
from ghoststep.judge import names as judge_names
from ghoststep.listen.bars.reading import Hints
from ghoststep.music import kit, ornaments, rules, touch
from ghoststep.music.errors import InputError, tidy
from ghoststep.music.feel import Feel
from ghoststep.music.groove import Groove
from ghoststep.music.meter import Meter
from ghoststep.music.rules import Rules
from ghoststep.music.time import TempoMap
from ghoststep.session.document import merge
from ghoststep.session.language import verb as language
from ghoststep.session.language.doing import do
from ghoststep.session.language.edit_context import EditContext
from ghoststep.work import corrections
from ghoststep.work.hits_heard import heard_performance

COVERED = (accents, ghosts, judge_hands, judge_names, merge, rules, schema, textgrid)

STICKINGS = (
    "RLRL", "RRLL", "RLRRLRLL", "RLLRLRRL", "RRLRLLRL", "RLRRLLRLRRLL", "RRLLR", "RLLRRL", "RRLLRRL", "RRLLRRLLR",
    "RLRLRRLRLRLL", "RLRLRLRRLRLRLRLL", "RLKK", "RLKKRLKK", "LKKR", "KKRL", "KRLKRLKRL", "KRLRLK", "RLRLK", "RLRR",
    "RLRRLRLLRLRRLRLL", "RLRRLRRL", "RRLLRRLLRRLL", "RLRLRLRL", "KRLLKRLLKRLL", "RLRLKRLRLK", "RLLRRLLRRL", "RRLLRLRL",
    "LRLL", "RKLKRKLK", "RRRR", "R", "KRLKRLKRLK",
)  # fmt: skip

LINES = (
    "tempo 96 # a # b", "tempo 0", "tempo x", "meter 65/4", "meter 1/4", "meter 0/4", "grid 16", "grid 5", "grid 0",
    "grid 100000", "bars 4096", "bars 4097", "bars 0", "swing 16 57%", "swing 16:0.57", "swing 32 0.6", "swing 8 0.81",
    "lean snare +12, hat -4", "lean snare", "lean gong 3", "lean snare 2001", "loose 4", "loose 51", "loose -1",
    "take 3", "take -1", "balance kick -2, snare +3", "balance kick 41", "levels snare ghost 30, accent 128",
    "levels ghost 30, normal 50, accent 80", "levels 30", "levels snare ghost 0", "cycle hat_pedal 3", "cycle 3",
    "cycle hat_pedal 0", "linear on", "ring over", "passage 12 from bar 1 2 to bar 1 3", "passage 12",
    "passage 12 from bar 1 3 to bar 1 2", "bar 2 tempo 120", "bar 2 meter 7/8 2+2+3", "bar 2 tempo 96 -> 120 over 2",
    "bar 2 tempo 96 -> 120 over 0", "bar 0 tempo 90", "bar 1 tempo 90", "hit kick bar 1 step 11 velocity 90",
    "hit kick bar 1 step 17 velocity 90", "hit kick bar 1 3.875 velocity 40", "hit kick bar 1 2& velocity 0",
    "hit kick bar 9 2& velocity 9", "hit snare bar 2 2e velocity 90 stroke rim late 4 limb R", "hit snare bar 2 2e",
    "hit snare bar 2 2e velocity 90 stroke hum", "hit snare bar 2 4 velocity 99 ornament flam", "nothing known",
    "tom_mid ---", "tom_mid xxxxyxxxxxxxxxxx", "tom_mid/12 xxxxxxxxxxxx", "tom_mid x--------------- | x--",
    "gong x---------------", "kick x---------------", "swing 8 0.5", "swing 8 0.6", "swing 16 0.5", "bar 3 tempo 90",
    "bar 2 grid 12", "bar 2 grid 5", "lane_grid snare 32", "bar 2 tempo 961", "bar 2 meter 4/4", "bar 2 meter 2/4",
    "levels snare ghost 127", "levels snare ghost 1", "balance kick 24", "balance kick 24.5", "loose 50",
    "lean kick 200",
    "hit kick bar 1 2& velocity 127 late 2000", "hit kick bar 1 2& velocity 127 late 2001", "hit kick bar 1 2& early 3",
    "hit crash bar 1 2 velocity 9 lasts 1/8", "hit crash bar 1 2 velocity 9 lasts 65", "hit snare bar 1 2e grace also",
    "cycle hat_pedal 257", "cycle kick 3", "linear off", "ring choke", "ring none", "take 0", "take 2147483648",
    "bar 2 tempo 96 -> 120 over 1", "bar 2 tempo 96 -> 961 over 1", "bar 1 tempo 96 -> 120 over 9", "tempo 96 bpm",
    "lean kick 200.5", "levels kick ghost 50, normal 50, accent 80", "levels kick ghost 50, normal 80, accent 80",
    "name \"",
    "name \"x\"", "name x", "grid 1", "grid 2", "tom_mid/64 x", "bar 2 grid 64", "bar 2 grid 1",
)  # fmt: skip
BODY = "snare ----X--o-o--X--o | ----X--o-o--X---\nkick X------x--X----- | X------x--X---x-\n"


def told(value: Feel | Rules) -> list[str]:
    """What of a feel or of rules is not as usual, a field each; so a field that is new changes no outcome."""
    usual = type(value)()
    names = [f.name for f in fields(value) if getattr(value, f.name) != getattr(usual, f.name)]
    return [f"{name} {getattr(value, name)}" for name in names]


def read_lines() -> str:
    """Each line ahead of a small grid: what it comes to, or the sentence that refuses it."""
    out = []
    for line in LINES:
        try:
            groove = textgrid.parse_grid(f"{line}\n{BODY}")
            pattern = groove.pattern
            said = [pattern.meter, pattern.bars, pattern.grid, groove.tempo.bpm, groove.tempo.ticks]
            said += told(groove.feel)
            said += [*told(pattern.rules), pattern.passages, len(pattern.hits), max(h.velocity for h in pattern.hits)]
            out.append(f"{line}: {' '.join(str(x) for x in said)}")
        except InputError as error:
            out.append(f"{line}: ! {error}")
    return "\n".join(out)


def midi_bytes(*events: tuple[int, mido.Message | mido.MetaMessage], division: int = 480) -> bytes:
    """A MIDI file of events at ticks."""
    track, last = mido.MidiTrack(), 0
    for tick, message in sorted(events, key=lambda e: e[0]):
        track.append(message.copy(time=tick - last))
        last = tick
    file = mido.MidiFile(ticks_per_beat=division)
    file.tracks.append(track)
    out = io.BytesIO()
    file.save(file=out)
    return out.getvalue()


def _of_kind(data: bytes, kind: int) -> bytes:
    return data[:8] + bytes([0, kind]) + data[10:]


def _note(tick: int, note: int, velocity: int = 90) -> tuple[int, mido.Message]:
    return tick, mido.Message("note_on", channel=9, note=note, velocity=velocity)


def _tempo(tick: int, us: int) -> tuple[int, mido.MetaMessage]:
    return tick, mido.MetaMessage("set_tempo", tempo=us)


def _meter(tick: int, above: int, below: int) -> tuple[int, mido.MetaMessage]:
    return tick, mido.MetaMessage("time_signature", numerator=above, denominator=below)


def _marker(tick: int, text: str) -> tuple[int, mido.MetaMessage]:
    return tick, mido.MetaMessage("marker", text=text)


def read_midi() -> str:
    """MIDI files of several kinds, as takes and as grooves."""
    files = {
        "plain": midi_bytes(_note(0, 36), _note(480, 38), _note(500, 38, 0)),
        "tempo": midi_bytes(_tempo(0, 500000), _tempo(1920, 400000), _note(0, 36), _note(2000, 38)),
        "meters": midi_bytes(_meter(0, 7, 8), _meter(1680, 4, 4), _note(0, 36), _note(1680, 36), _note(3000, 42)),
        "off the bar": midi_bytes(_meter(0, 4, 4), _meter(1000, 3, 4), _note(0, 36), _note(4000, 38)),
        "bar one later": midi_bytes(_marker(1920, "bar 1"), _note(1900, 36), _note(1920, 42), _note(2400, 38)),
        "tempo ahead": midi_bytes(_marker(1920, "bar 1"), _tempo(0, 500000), _tempo(2400, 400000), _note(1920, 36)),
        "unknown keys": midi_bytes(_note(0, 36), _note(10, 3), _note(20, 4)),
        "triplets": midi_bytes(*(_note(160 * i, 42) for i in range(12)), _note(0, 36), _note(960, 38)),
        "half a bar": midi_bytes(_meter(0, 4, 4), _meter(960, 3, 4), _note(0, 36), _note(4000, 38)),
        "a beat": midi_bytes(_meter(0, 4, 4), _meter(480, 4, 4), _note(0, 36), _note(480, 38), _note(2400, 36)),
        "a bit more": midi_bytes(_meter(0, 4, 4), _meter(1100, 4, 4), _note(0, 36), _note(2400, 36)),
        "kind 2": _of_kind(midi_bytes(_note(0, 36), _note(480, 38)), 2),
        "kind 3": _of_kind(midi_bytes(_note(0, 36), _note(480, 38)), 3),
        "nothing": midi_bytes(_tempo(0, 500000)),
        "coarse": midi_bytes(*(_note(24 * i, 42) for i in range(8)), _note(1, 36, 1), _note(97, 38, 127), division=96),
    }
    out = []
    for name, data in files.items():
        try:
            take = midi_in.parse_midi(data, name, general_midi_keys())
            groove = midi_in.groove_of(take, name)
            rows = [f"{h.position_ticks}/{h.voice}/{h.velocity}/{h.offset_ms:.2f}" for h in groove.pattern.hits]
            out.append(f"{name}: lead {take.lead_s:.4f} left out {take.left_out} moved {take.moved_lines}")
            pattern, tempo = groove.pattern, groove.tempo
            out.append(f"  {pattern.meter} {pattern.frame.changes} bars {pattern.bars} {tempo.ticks}")
            out.append(f"  {[round(b, 3) for b in tempo.bpm]} grid {pattern.grid} {pattern.passages}")
            out.append("  " + " ".join(rows))
            out.append("  " + " ".join(f"{t:.4f}" for t in take.performance().onset_s))
        except InputError as error:
            out.append(f"{name}: ! {error}")
    return "\n".join(out)


def tables() -> str:
    """What is fixed: ornaments, voices, roles, usual tempi, the lines of the language and its other words."""
    lines = [str(o) for o in ornaments.ORNAMENTS]
    lines += [str(v) for v in kit.VOICES] + [str(lane) for lane in kit.LANES]
    lines += [f"{v}: {touch.role_of(v).value} {touch.level_db(v):.2f}" for v in range(1, 128, 9)]
    lines.append(f"{TempoMap()} {Meter()}")
    lines += [f"{v.line} | {v.about} | {v.example} | {v.on_hits}" for v in language.all_verbs().values()]
    for v in language.all_verbs().values():
        lines += [f"{v.name}: {p.usage} {_limits(p.kind)} {p.key}" for p in v.params]
    lines.append(f"{sorted(language.other_words().items())}")
    lines.append(tidy("a" * 700)[-20:] + tidy("two\nlines"))
    return "\n".join(lines)


def _limits(kind: object) -> str:
    """The figures that bound a kind of parameter."""
    figures = {k: v for k, v in vars(kind).items() if isinstance(v, bool | int | float | str)}
    return f"{type(kind).__name__} {figures}"


def names() -> str:
    """What stickings are called, and what the accent shapes accent."""
    lines = []
    for hands in STICKINGS:
        found = judge_names.named([judge_names.Moment(5040 * i, limb) for i, limb in enumerate(hands)])
        lines.append(f"{hands}: {'; '.join(str(n) for n in found)}")
    for text in ("beat", "off-beat", "backbeat", "groups", "every 3", "every 3 from 2", "1,3,4", "every 0", "every 65"):
        for m in (Meter(4, 4), Meter(7, 8, (2, 2, 3)), Meter(11, 4, (4, 4, 3)), Meter(12, 8)):
            head = f"meter {m.full_name}\ngrid 8\nhat_closed {'x' * (m.bar_ticks // 10080)}\n"
            try:
                _, after = do(EditContext(_opened(textgrid.parse_grid(head))), f"accents {text} on hat")
                line = "".join("X" if h.velocity > 90 else "x" for h in after.document.groove.pattern.hits)
            except InputError as error:
                line = f"! {error}"
            lines.append(f"{text} in {m.full_name}: {line}")
    return "\n".join(lines)


def _opened(groove: Groove):  # type: ignore[no-untyped-def]
    from ghoststep.session.document.document import Document
    from ghoststep.session.edits.commit import opened

    return opened(Document("x", groove))


GROOVES = (
    "tempo 90\nsnare ----X-------X---\nkick X------x--X-----\nhat_closed x-x-x-x-x-x-x-x-",
    "tempo 120\nmeter 3/4\ngrid 8\nsnare --X-X-\nkick X---x-\nride x-xxx-",
    "tempo 100\nmeter 7/8 2+2+3\ngrid 8\nsnare --X--X-\nkick X---x--\nhat_closed xxxxxxx",
    "tempo 84\ngrid 16\nsnare ----X--o----X--o | ----X-oo----Xooo\nkick X-x-------x-x--- | X-x----x--x----x\n"
    "hat_open --x---x---x---x- | --x---x---x---x-",
    "tempo 140\nmeter 6/8\ngrid 16\nsnare ------X----- | ------X---o-\nkick X---x----x-x | X-----------\n"
    "hat_closed x-x-x-x-x-x- | x-x-x-x-x-x-",
    "tempo 76\nswing 16 0.6\ngrid 32\nsnare --------X-----------o---X-------\nkick X--x--------------x-x-----x-----",
    "tempo 110\ngrid 12\nsnare ---X--o--X--\nkick X--x-xX--x-x\nhat_closed x-xx-xx-xx-x",
)


def proposed() -> str:
    """Ghosts that are proposed, filled in and thinned out, and hands, in several grooves."""
    out = []
    for text in GROOVES:
        groove = textgrid.parse_grid(text)
        for p in ghosts.proposals(groove):
            out.append(f"{p.name}: {' '.join(f'{h.position_ticks}/{h.velocity}{h.limb}' for h in p.hits)}")
        for many in (1, 2, 3, 5):
            out.append(f"{many}: {[h.position_ticks for h in ghosts.ghosts(groove, many, second_only=many == 2)]}")
        hands = judge_hands.sticking(groove)
        out.append(" ".join(f"{i}{limb}" for i, limb in sorted(hands.items())))
        for name in ("flam", "drag", "roll5", "roll7", "press", "roll", "double", "roll6", "ruff"):
            try:
                _, rolled = do(
                    EditContext(_opened(groove)), f"ornament {name} on snare at {'2' if name != 'roll7' else '1'}"
                )
            except InputError as error:
                out.append(f"{name}: ! {error}")
                continue
            spelled = spelled_out(rolled.document.groove)
            out.append(
                f"{name}: "
                + " ".join(f"{h.position_ticks}/{h.velocity}{h.limb}{h.offset_ms:.0f}" for h in spelled.pattern.hits)
            )
    return "\n".join(out)


def followed(base: Groove) -> str:
    """A heard groove that was edited, and then is counted otherwise."""
    document = heard_performance(perform(base), "base", Hints(tempo_bpm=96))
    context = EditContext(document)
    for phrase in (
        "velocity 90 on kick at 1",
        "remove snare ghosts bars 1",
        "place crash 2 bars 2",
        "move kick 3& to 3",
    ):
        try:
            _, context = do(context, phrase)
        except InputError as error:
            return f"! {error}"
    out = []
    for change in (
        lambda d: corrections.times_as_fast(d, 2), lambda d: corrections.in_meter(d, Meter(3, 4)),
        lambda d: corrections.beat_one(d, 0.3), corrections.straight_or_swung,
        lambda d: corrections.move_spot(d, [d.listening.explained.groove.pattern.hits[3]], 1),
    ):  # fmt: skip
        words, after = change(context.document)
        pattern = after.groove.pattern
        out.append(f"{words}: {pattern.meter} {pattern.bars} {len(pattern.hits)}")
        out.append(
            " ".join(f"{h.position_ticks}/{h.voice}/{h.velocity}" for h in pattern.hits if h.voice in ("kick", "crash"))
        )
    late = replace(base, feel=replace(base.feel, lean_ms={}, loose_ms=0.0))
    back = hits.parse_hits(hits.hits_text(perform(late)), "table")
    out.append(f"{len(back)} {back.onset_s[:5].round(4)} {back.length_s:.4f}")
    return "\n".join(out)
