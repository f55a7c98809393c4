"""What people call the drums: plain and short words for voices and groups."""

from ghoststep.music.errors import InputError
from ghoststep.music.kit import GROUPS, LANES, VOICE_INDEX, VOICE_NAMES, VOICES, voice, voices_of, with_trait

# Words that mean one voice; a group's words mean its closed or usual voice where one voice is asked for.
_VOICE_OF_WORD = {word: v.name for v in VOICES for word in v.words}
_GROUP_OF_WORD = {
    "hh": "hat", "hihat": "hat", "hi_hat": "hat", "hats": "hat", "hihats": "hat", "hi_hats": "hat", "tom": "toms",
    "cymbal": "cymbals",
}  # fmt: skip
_FIRST_OF_GROUP = {voice(name).group: name for name in with_trait("first")}
_LANE_OF_WORD = {lane.label.lower().replace("-", "_").replace(" ", "_"): lane.voices for lane in LANES}


def _plain(word: str) -> str:
    return word.lower().strip(",").replace("-", "_")


def voices_named(word: str) -> tuple[str, ...] | None:
    """The voices a word stands for, None where it names none. A voice's own name means that voice alone."""
    name = _plain(word)
    name = _VOICE_OF_WORD.get(name, name)
    if name in VOICE_INDEX:
        return (name,)
    name = _GROUP_OF_WORD.get(name, name)
    if name in GROUPS:
        return voices_of(name)
    return _LANE_OF_WORD.get(name)


def voice_named(word: str) -> str | None:
    """The one voice a word stands for where a hit is put: "hat" is the closed one."""
    name = _plain(word)
    name = _VOICE_OF_WORD.get(name, name)
    if name in VOICE_INDEX:
        return name
    name = _GROUP_OF_WORD.get(name, name)
    found = _FIRST_OF_GROUP.get(name)
    return found or (_LANE_OF_WORD[name][0] if name in _LANE_OF_WORD else None)


def voices_meant(words: list[str]) -> tuple[str, ...]:
    """`voices_named` of one or two words ("floor tom"); InputError where they name none."""
    found = voices_named("_".join(words))
    if found is None:
        raise InputError(
            f"'{' '.join(words)}' is neither a voice nor a group. The groups are: {', '.join(_FIRST_OF_GROUP)}; the"
            f" voices: {', '.join(VOICE_NAMES)}."
        )
    return found
