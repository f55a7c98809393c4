"""Parts and sections by their names, as bars of the groove: "in the chorus", "part B"."""

from ghoststep.music.form import Form
from ghoststep.session.say.places import InBars

Names = dict[tuple[str, ...], InBars]


def named_bars(form: Form | None) -> Names:
    """Rows of words that name bars, in a groove with a form: each part and section where it is played first. What is
    changed there is changed wherever the part is played."""
    if form is None:
        return {}
    out: Names = {}
    sections: dict[str, list[int]] = {}
    done: set[str] = set()
    last = ""
    for stretch in form.stretches():
        bars = tuple(range(stretch.first_bar, stretch.first_bar + stretch.bars))
        out.setdefault(("part", *stretch.part.lower().split()), InBars(bars))
        if stretch.section != last and last:
            done.add(last)
        last = stretch.section
        if stretch.section and stretch.section not in done:
            sections.setdefault(stretch.section, []).extend(bars)
    for name, numbers in sections.items():
        words = tuple(name.lower().split())
        for row in (("section", *words), ("the", *words), words):
            out.setdefault(row, InBars(tuple(dict.fromkeys(numbers))))
    return out
