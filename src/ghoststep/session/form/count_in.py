"""Count-ins: a part of clicks that leads into a section, one on every beat of a bar."""

from dataclasses import replace

from ghoststep.music.form import Form, Part
from ghoststep.music.meter import Meter
from ghoststep.music.pattern import Hit, Pattern
from ghoststep.music.touch import ROLE_VELOCITY, Role

MAX_COUNT_IN = 8  # bars
_CLICK = "cross_stick"
_NAME = "count"


def counted(meter: Meter) -> Pattern:
    """One bar of clicks: one on every beat (of compound meters on every group), the first one accented."""
    hits = []
    for k, tick in enumerate(meter.group_starts):
        role = Role.ACCENT if k == 0 else Role.NORMAL
        hits.append(Hit(tick, _CLICK, ROLE_VELOCITY[role], role))
    return Pattern(tuple(hits), meter, 1)


def with_count_in(form: Form, meter: Meter) -> tuple[Form, str]:
    """The form with a part of clicks in a meter, and its name: the one there is, or a new one."""
    pattern = counted(meter)
    for k in range(1, 100):
        name = _NAME if k == 1 else f"{_NAME}{k}"
        found = next((p for p in form.parts if p.name == name), None)
        if found is None:
            return form.with_part(Part(name, replace(pattern, grid=16))), name
        if found.pattern.meter == meter and found.pattern.hits == pattern.hits:
            return form, name
    return form, name
