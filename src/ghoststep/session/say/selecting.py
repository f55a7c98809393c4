"""Which hits are meant by things said of a groove, and exact words for a set of hits or of spots."""

from collections.abc import Collection, Iterable, Sequence
from dataclasses import dataclass, replace

from ghoststep.music.kit import VOICE_NAMES
from ghoststep.music.meter import Meter
from ghoststep.music.pattern import Hit, Pattern
from ghoststep.music.spots import count_name, decimal_name
from ghoststep.music.time import TICKS_PER_WHOLE
from ghoststep.music.touch import Role
from ghoststep.session.say.lexicon import HATS
from ghoststep.session.say.places import InBars, Nth, Spots, Stretch, backbeats
from ghoststep.session.words import runs


@dataclass(frozen=True)
class Thing:
    """Hits as they are named: of some voices, of a role, on some spots, in some bars, the nth of them.

    voices: None for whichever. backbeat: the strokes of the snare on the backbeats that are no ghosts.
    """

    voices: tuple[str, ...] | None = None
    role: Role | None = None
    backbeat: bool = False
    nth: tuple[Nth, ...] = ()
    spots: Spots | None = None
    bars: InBars | None = None
    stretch: Stretch | None = None

    @property
    def named(self) -> bool:
        """Whether it says which strokes, and not only where."""
        return self.voices is not None or self.role is not None or self.backbeat

    @property
    def one_voice(self) -> str | None:
        """The voice a new stroke of it gets."""
        if self.voices:
            return self.voices[0]
        return "snare" if self.backbeat or self.role is Role.GHOST else None


class Where:
    """A groove's pattern with the cursor's bar: names of places made into places. within: the bars that are meant where
    none are named (a part that is chosen); none for all."""

    def __init__(self, pattern: Pattern, cursor_bar: int, within: frozenset[int] = frozenset()) -> None:
        self.pattern, self.cursor_bar, self.within = pattern, cursor_bar, within
        self.frame = pattern.frame

    def bars(self, said: InBars | None, *, last: bool = False, first: bool = False) -> set[int]:
        """The bars that are meant; all of them where none is named (or the last, where it was said so)."""
        count = self.pattern.bars
        if said is not None:
            return said.among(count, self.cursor_bar)
        whole = {b for b in self.within if b <= count} or set(range(1, count + 1))
        return {max(whole)} if last else {min(whole)} if first else whole

    def missing(self, said: InBars | None) -> list[int]:
        """Bars that are named and not there."""
        return sorted(b for b in self.bars(said) if not 1 <= b <= self.pattern.bars)

    def meter(self, bar: int) -> Meter:
        return self.frame.meter_of(bar)

    def places(self, spots: Spots, bars: InBars | None, stretch: Stretch | None = None) -> dict[int, set[int]]:
        """By bar, the ticks from its line at which spots lie; only bars that have any."""
        out = {}
        first = any(s.kind == "first of all" for s in spots.all)
        for bar in sorted(self.bars(bars, last=spots.last or bool(stretch and stretch.last), first=first)):
            if not 1 <= bar <= self.pattern.bars:
                continue
            meter = self.meter(bar)
            ticks = {t for t in spots.ticks(meter) if 0 <= t < meter.bar_ticks}
            if stretch is not None:
                low, high = stretch.ticks(meter)
                ticks = {t for t in ticks if low <= t < high}
            if ticks:
                out[bar] = ticks
        return out

    # -- hits ---------------------------------------------------------------------------------------------------

    def hits(self, thing: Thing, among: Sequence[Hit] | None = None) -> list[Hit]:
        """The hits a thing means, in the order of time."""
        if thing.spots is not None and any(s.kind == "end" for s in thing.spots.all):  # the last stroke there is
            thing = replace(thing, spots=None, nth=(*thing.nth, Nth(-1, scope="bar")))
        found = [h for h in (self.pattern.hits if among is None else among) if self._fits(h, thing)]
        for nth in thing.nth:
            found = self._nth(found, nth, thing)
        return found

    def _fits(self, h: Hit, thing: Thing) -> bool:
        spot = self.frame.spot_at(h.position_ticks)
        meter = self.meter(spot.bar)
        last = bool((thing.spots and thing.spots.last) or (thing.stretch and thing.stretch.last))
        if thing.voices is not None and h.voice not in self.meant(thing.voices):
            return False
        if thing.role is not None and h.role is not thing.role and not self._as_accent(h, thing):
            return False
        if thing.backbeat and not self.is_backbeat(h):
            return False
        if spot.bar not in self.bars(thing.bars, last=last):
            return False
        if thing.spots is not None:
            ticks = thing.spots.ticks(meter)
            if thing.spots.beats:
                inside = any(t <= spot.tick < t + meter.unit_ticks for t in ticks)
                if not (inside if thing.voices is None and thing.role is None else spot.tick in ticks):
                    return False
            elif spot.tick not in ticks:
                return False
        if thing.stretch is not None:
            low, high = thing.stretch.ticks(meter)
            if not low <= spot.tick < high:
                return False
        return True

    def _as_accent(self, h: Hit, thing: Thing) -> bool:
        """Accents of a voice that has none of that role: the strokes that are no ghosts, on the backbeats."""
        return False

    def is_backbeat(self, h: Hit) -> bool:
        spot = self.frame.spot_at(h.position_ticks)
        meter = self.meter(spot.bar)
        on = {k * meter.unit_ticks for k in backbeats(meter)}
        return h.voice in ("snare", "cross_stick", "clap") and h.role is not Role.GHOST and spot.tick in on

    def meant(self, voices: Collection[str]) -> set[str]:
        """The voices a word means here: "hat" is what the hand plays, and the foot's where the hand plays none."""
        if set(voices) == set(HATS) and not any(h.voice in HATS for h in self.pattern.hits):
            return {*voices, "hat_pedal"}
        return set(voices)

    def _nth(self, row: list[Hit], nth: Nth, thing: Thing) -> list[Hit]:
        """The nth of the whole, of each bar or of each beat; strokes at one moment count once."""
        scope = nth.scope or ("bar" if thing.bars is not None and not thing.bars.last else "")
        groups: dict[int, list[int]] = {}
        for tick in sorted({h.position_ticks for h in row}):
            bar = self.frame.spot_at(tick).bar
            key = bar if scope == "bar" else self.frame.beat_start_at(tick) if scope == "beat" else 0
            groups.setdefault(key, []).append(tick)
        chosen = {t for ticks in groups.values() for t in nth.of(ticks)}
        return [h for h in row if h.position_ticks in chosen]

    # -- exact words ----------------------------------------------------------------------------------------------

    def by_bar(self, ticks: Iterable[int]) -> dict[int, set[int]]:
        """Positions of the groove (ticks) as places in their bars."""
        out: dict[int, set[int]] = {}
        for tick in ticks:
            spot = self.frame.spot_at(tick)
            out.setdefault(spot.bar, set()).add(spot.tick)
        return out

    def targets(self, hits: Sequence[Hit]) -> list[str]:
        """Exact words for a set of hits, as few rows as come to just them."""
        if len(hits) == len(self.pattern.hits):
            return ["everything"]
        whole = self._whole_rows(hits)
        if whole is not None:
            return [whole]
        rows: dict[tuple[str, str], set[str]] = {}
        for name in VOICE_NAMES:
            mine = self.by_bar(h.position_ticks for h in hits if h.voice == name)
            for bars, spots in self._rows(mine, {b: self._of_voice(b, name) for b in mine}):
                rows.setdefault((spots, bars), set()).add(name)
        return [
            " ".join([*sorted(names, key=VOICE_NAMES.index), *filter(None, (spots, bars))])
            for (spots, bars), names in rows.items()
        ]

    def _whole_rows(self, hits: Sequence[Hit]) -> str | None:
        """Words for hits that are all of some voices, or all of a role of theirs, in some bars."""
        voices = {h.voice for h in hits}
        bars = {self.frame.spot_at(h.position_ticks).bar for h in hits}
        keys = {h.key for h in hits}
        ghosts = Role.GHOST if all(h.role is Role.GHOST for h in hits) else None
        for role in (None, ghosts):
            for some in (None, bars):
                wanted = {
                    h.key for h in self.pattern.hits
                    if h.voice in voices and (role is None or h.role is role)
                    and (some is None or self.frame.spot_at(h.position_ticks).bar in some)
                }  # fmt: skip
                if wanted == keys:
                    words = sorted(voices, key=VOICE_NAMES.index)
                    words += [f"{role.value}s"] if role is not None else []
                    return " ".join(
                        words + ([f"bars {runs(sorted(some)).replace(' ', '')}"] if some is not None else [])
                    )
        return self._whole_beats(hits, voices, bars)

    def _whole_beats(self, hits: Sequence[Hit], voices: set[str], bars: set[int]) -> str | None:
        """Words for hits that are all there is, or all of some voices, on whole beats of some bars."""
        keys = {h.key for h in hits}
        beats = {self.frame.beat_at(h.position_ticks) for h in hits}
        for some in (None, voices):
            inside = [
                h
                for h in self.pattern.hits
                if self.frame.beat_at(h.position_ticks) in beats
                and self.frame.spot_at(h.position_ticks).bar in bars
                and (some is None or h.voice in some)
            ]
            if {h.key for h in inside} == keys and (some is None or len(hits) > len(beats) * len(bars)):
                words = sorted(some or (), key=VOICE_NAMES.index)
                return " ".join([*words, f"beats {','.join(map(str, sorted(beats)))}", self.bar_words(bars)]).strip()
        return None

    def _of_voice(self, bar: int, name: str) -> set[int]:
        start = self.frame.start_of(bar)
        end = self.frame.start_of(bar + 1)
        return {
            self.pattern.hits[i].position_ticks - start
            for i in self.pattern.between(start, end)
            if self.pattern.hits[i].voice == name
        }

    def _rows(self, places: dict[int, set[int]], there: dict[int, set[int]]) -> list[tuple[str, str]]:
        """Bars that have the same places, with exact words for these; where no word of spots is needed, "" for them."""
        sets: dict[tuple[frozenset[int], str, bool], list[int]] = {}
        for bar, ticks in places.items():
            sets.setdefault((frozenset(ticks), str(self.meter(bar)), ticks == there.get(bar)), []).append(bar)
        out = []
        for (here, _, every), bars in sets.items():
            out.append((self.bar_words(bars), "" if every else f"at {self.spot_words(here, bars[0])}"))
        return out

    def bar_words(self, bars: Collection[int]) -> str:
        """ "bars 2-4", or "" for all of them."""
        return "" if len(set(bars)) == self.pattern.bars else f"bars {runs(sorted(bars)).replace(' ', '')}"

    def spot_words(self, ticks: Collection[int], bar: int) -> str:
        """Exact words for places of a bar: a rule where one gives just them, else their names."""
        meter, wanted = self.meter(bar), frozenset(ticks)
        if len(wanted) > 1:
            for word, spots in _RULES(meter.unit_ticks, meter.bar_ticks):
                if spots == wanted:
                    return word
        return ",".join(plain_name(t, meter, self.pattern.grid) for t in sorted(wanted))

    def place_rows(self, places: dict[int, set[int]]) -> list[tuple[str, str]]:
        """Exact words for spots to be filled: (spots, bars) for each set of bars that is alike."""
        sets: dict[tuple[frozenset[int], str], list[int]] = {}
        for bar, ticks in places.items():
            sets.setdefault((frozenset(ticks), str(self.meter(bar))), []).append(bar)
        return [(self.spot_words(ticks, bars[0]), self.bar_words(bars)) for (ticks, _), bars in sets.items()]


def plain_name(tick: int, meter: Meter, grid: int) -> str:
    """The counted name of a place, or its decimals where "a" would mean the last third."""
    name = count_name(tick, meter)
    return decimal_name(tick, meter) if name.endswith("a") and grid % 3 == 0 else name


def _RULES(unit: int, length: int) -> Iterable[tuple[str, set[int]]]:
    for word, parts in (("8th", 8), ("16th", 16), ("triplet", 12), ("32nd", 32)):
        yield f"every {word}", set(range(0, length, TICKS_PER_WHOLE // parts))
    for word, share in (("&", 2), ("e", 4), ("a", -4), ("trip", 3), ("let", -3)):
        first = unit // share if share > 0 else unit + unit // share
        yield f"every {word}", set(range(first, length, unit))


__all__ = ["Thing", "Where", "replace"]
