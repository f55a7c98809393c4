"""Whatever is done to a song, its text says it: read again, form and groove are those in memory, hit for hit.

python -m tools.fuzz.songs --phrases 20000 --seed 1
"""

import argparse
import random

from ghoststep.files.textgrid import parse_text
from ghoststep.files.textgrid_song_out import song_text
from ghoststep.music.errors import InputError
from ghoststep.music.pattern import Pattern
from ghoststep.session.document.document import Document
from ghoststep.session.edits.commit import opened
from ghoststep.session.form.plain import without_keys
from ghoststep.session.language.doing import do
from ghoststep.session.language.edit_context import EditContext
from ghoststep.session.language.verb import all_verbs
from tools.fuzz.phrases import phrases

SONGS = (
    """tempo 100
grid 16
swing 16 0.55
part A
hat_closed x-x-x-x-x-x-x-x-
snare      ----X--o----X--o
kick       X-----x---x-----
part B = A
  move kick 3& to 3
  place snare 3a as ghost
part D = B
  remove hat_closed at 4&
part H
crash      X---x-x---------
kick       X---x-x---------
part F = A
  fill-in 2 cell RLLK
section verse = A B A F
  count-in 1
  cue to chorus fill-in 1 cell RLRL
  cue place crash 4
section chorus = B D | ending A | ending H
  tempo 120
  lean snare +9
  bar 2 place hat_open 4&
  bar 4 role ghost on kick at 1
form = verse chorus verse
""",
    """tempo 90
meter 4/4
bar 3 tempo 90 -> 110 over 2
bar 7 tempo 96
grid 16
levels snare ghost 25
part A
hat_closed x-x-x-x-x-x-x-x- | x-x-x-x-x-x-x-x-
snare      ----X-------X--o | ----X-------X-o-
kick       X-----x---x----- | X-----x---x-x---
hit snare bar 1 4 velocity 101 late 4.5
part B = A
  remove kick bars 2
part C
meter 3/4
ride       x---x-x-x---
kick       X-----x-----
section one = A B C x2
section two = (B A) x2 B
  every bar role accent on hat_closed at 1
form = one two one
""",
    """tempo 120
part A
hat_closed x---x---x---x---
kick       X-------X-------
part B
tom_low    x-x-x-x-x-x-x-x-
""",
)
FORM_PHRASES = (
    "answer A as Z near", "vary A as Y by remove kick at 1 then place cowbell 2", "free B", "rebase B to A",
    "part P bars 2", "part Q bars 1-2", "part A bars 1", "double-bar 2", "delete-bar 3", "move-bar 2 before 5",
    "but {s} by remove kick at 1", "but {s} by remove kick at 3& ; place clap 2",
    "but {s} bars 1 by place cowbell 3", "but {s} bars 2 by remove kick then place clap 4", "cue {s} by place crash 4",
    "cue {s} by none", "count-in 1 before {s}", "count-in 0 before {s}", "put-in A into {s} place 2",
    "take-out 2 of {s}", "reorder 2 to 1 of {s}", "instead B in {s} place 1", "song-order 2 again",
    "song-order 1 later",
    "song-order 2 out", "section-meter 2/2 in {s}", "letters", "same B as A", "not-same 3 as W", "begins 3 as mid",
    "only-here on", "only-here off", "tempo 96 to 120 bars 2-3", "tempo 130 bars 4", "tempo +8", "linear on",
    "linear off", "ring choke", "cycle 3 hat_pedal", "cycle 0 hat_pedal", "level ghost 30 snare", "grid 12 bars 2",
    "grid triplets ride", "grid 16", "lead-in {s} = H", "form one two", "section new = A B", "phrase 4 of A by near",
    "sticking choice 2", "place hat_pedal 1", "meter 7/8 2+2+3 bars 2", "playable at 150", "undo-nothing",
    "accents 1,3 on hat_closed", "simplify", "line 30 90 on snare", "move 2 steps on kick bars 2", "nudge 7 on snare",
    "ornament flam on snare at 2", "crescendo 60% 130% on everything", "linear", "remove everything bars 2",
)  # fmt: skip


def context_of(text: str) -> EditContext:
    form, groove = parse_text(text)
    return EditContext(opened(Document("song", groove, form=form)))


def check(context: EditContext) -> str:
    """What is otherwise in the song once it is read from its own text; "" where nothing is."""
    form, groove = context.document.form, context.document.groove
    if form is None:
        return ""
    text = song_text(form, groove)
    again, sung = parse_text(text)
    if again is None:
        return f"no form:\n{text}"
    pattern, other = without_keys(groove.pattern), without_keys(sung.pattern)
    for name in ("hits", "frame", "bars", "grid", "lane_grids", "passages", "rules"):
        if getattr(pattern, name) != getattr(other, name):
            return f"{name}: {difference_of(pattern, other)}\n{text}"
    if sung.tempo != groove.tempo or sung.feels != groove.feels or sung.feel != groove.feel:
        return f"tempo or feel:\n{groove.tempo}\n{sung.tempo}\n{text}"
    for mine, theirs in zip(form.parts, again.parts, strict=True):
        if mine != theirs or mine.pattern.hits != theirs.pattern.hits:
            return f"part {mine.name}: {difference_of(mine.pattern, theirs.pattern)}\n{text}"
    return "" if again == form else f"sections or singles: {form.sections}\n{again.sections}\n{text}"


def difference_of(one: Pattern, other: Pattern) -> str:
    """What two patterns do not share, for the message of a failing test."""
    fields = [
        n for n in ("frame", "bars", "grid", "lane_grids", "passages", "rules") if getattr(one, n) != getattr(other, n)
    ]
    gone, come = (set(a.hits) - set(b.hits) for a, b in ((one, other), (other, one)))
    return f"{fields}, in memory {sorted(map(str, gone))}, read {sorted(map(str, come))}"


def phrase_of(dice: random.Random, context: EditContext) -> str:
    kind = dice.random()
    form = context.document.form
    if kind < 0.5:
        names = [s.name for s in form.sections] if form is not None and form.sections else ["verse"]
        return dice.choice(FORM_PHRASES).format(s=dice.choice(names))
    if kind < 0.75:
        return phrases(dice)
    return dice.choice([v.example for v in all_verbs().values()])


def walk(seed: int, steps: int) -> tuple[int, list[str]]:
    """How many phrases changed a song, and what went wrong."""
    dice = random.Random(seed)
    context, changed, wrong, row = context_of(dice.choice(SONGS)), 0, [], []
    for _ in range(steps):
        phrase = phrase_of(dice, context)
        try:
            _, after = do(context, phrase)
        except InputError:
            continue
        row.append(phrase)
        if after.document is not context.document:
            changed += 1
            try:
                said = check(after)
            except InputError as error:
                said = f"cannot be read again: {error}"
            if said:
                wrong.append(f"seed {seed}: {' ; '.join(row)}\n{said}")
        far = wrong or after.document.form is None or after.document.groove.pattern.bars > 40
        context = context_of(dice.choice(SONGS)) if far else after
        if far:
            row = []
        if wrong:
            break
    return changed, wrong


def main() -> int:
    """Say random phrases to songs until so many have changed one; what goes wrong is printed, and is exit code 1."""
    parser = argparse.ArgumentParser(description=main.__doc__)
    parser.add_argument("--phrases", type=int, default=20_000)
    parser.add_argument("--seed", type=int, default=1)
    options = parser.parse_args()
    changed, faults, seed = 0, 0, options.seed
    while changed < options.phrases:
        more, wrong = walk(seed, 30)
        changed, seed = changed + more, seed + 1
        faults += len(wrong)
        print("\n".join(wrong)[:3000], end="")
    print(
        f"{changed} phrases changed a song, {faults} times its text said otherwise (seeds {options.seed} to {seed - 1})"
    )
    return 1 if faults else 0


if __name__ == "__main__":
    raise SystemExit(main())
