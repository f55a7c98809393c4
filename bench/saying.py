"""Sentences: how long one takes to be understood and tried on 16 full bars, how many of the corpus come right, and how
long a groove takes to be told."""

import random
import time
from collections import Counter

from tests.say.corpus import rows, verdict

from bench.parts import playable
from bench.timing import say
from ghoststep.files.textgrid import parse_grid
from ghoststep.session.document.document import Document
from ghoststep.session.edits.commit import opened
from ghoststep.session.language.edit_context import EditContext
from ghoststep.session.say.lexicon import lexicon
from ghoststep.session.say.telling import said_again, strokes_told, told
from ghoststep.session.say.topics import in_turn
from ghoststep.session.say.understanding import understood

_RANDOM, _DRAWN = 400, 60


def _full(bars: int = 16) -> EditContext:
    text = "\n".join(f"{name} {'|'.join(['xxxxxxxxxxxxxxxx'] * bars)}" for name in ("hat_closed", "snare", "kick"))
    return EditContext(opened(Document("full", parse_grid(f"tempo 100\n{text}"))))


def _ms(context: EditContext, text: str) -> float:
    began = time.perf_counter()
    understood(context, text)
    return 1000 * (time.perf_counter() - began)


def saying() -> None:
    context = _full()
    understood(context, "kick on 3")
    found = sorted(_ms(context, text) for text in in_turn())
    say("a sentence understood", f"{found[len(found) // 2]:.0f} ms", worst=f"{found[-1]:.0f} ms")
    dice = random.Random(3)
    words = [" ".join(row) for row in lexicon()] + [str(n) for n in range(1, 17)]
    found = sorted(
        _ms(context, " ".join(dice.choice(words) for _ in range(dice.randint(1, 9)))) for _ in range(_RANDOM)
    )
    say("random words", f"{found[len(found) // 2]:.0f} ms", worst=f"{found[-1]:.0f} ms")
    counted = Counter(verdict(row) for row in rows())
    say("the corpus", f"{counted['right']} of {counted.total()} right, {counted['wrong']} wrong")
    lost = strokes = 0
    took = []
    for _ in range(_DRAWN):
        groove = playable(dice, dice.choice([1, 2, 4, 8]))
        began = time.perf_counter()
        sentences = told(groove)
        took.append(1000 * (time.perf_counter() - began))
        wanted = strokes_told(groove)
        strokes += len(wanted)
        lost += len(wanted ^ strokes_told(said_again(groove, sentences)))
    say("a groove told", f"{sorted(took)[_DRAWN // 2]:.0f} ms", worst=f"{max(took):.0f} ms")
    say("told and said again", f"{strokes - lost} of {strokes} strokes")
