"""What `edit` is asked to do, one after the other: exact phrases and sentences, with what was done taken back again."""

from dataclasses import dataclass, field, replace
from typing import TYPE_CHECKING

from ghoststep.music.errors import InputError
from ghoststep.session.commands import do_named
from ghoststep.session.language.edit_context import EditContext

if TYPE_CHECKING:
    from ghoststep.session.say.degrees import Degrees
    from ghoststep.session.say.understanding import Understood

_ONLY_HEARD = "Nothing is played here: open it in the window to hear it."


def _described(context: EditContext, bars: tuple[int, ...]) -> list[str]:
    from ghoststep.session.say.telling import form_told, told

    return told(context.document.groove, bars) + ([] if bars else form_told(context.document.form))


@dataclass
class Run:
    """A row of things asked: where it stands, what was told, and the way back."""

    context: EditContext
    degrees: "Degrees | None" = None
    told: list[str] = field(default_factory=list)
    before: "list[Understood]" = field(default_factory=list)
    past: list[EditContext] = field(default_factory=list)
    undone: list[EditContext] = field(default_factory=list)

    def do(self, text: str) -> None:
        """One exact phrase.

        Raises
        ------
        InputError
            Where it cannot be done; what was done before it stays.
        """
        words, after = do_named(replace(self.context, asks=()), text)
        self._stand(words, after)

    def say(self, text: str) -> None:
        """A sentence; the exact phrases it was taken for are told with what they did.

        Raises
        ------
        InputError
            Where it is not understood, does nothing, or may mean several things: these are told.
        """
        from ghoststep.session.say.topics import near_to
        from ghoststep.session.say.understanding import understood

        found = understood(self.context, text, self.before, self.degrees)
        if not found.tried:
            near = near_to(self.context, text)
            raise InputError(found.trouble + (f" You could say: {'; '.join(near)}." if near else ""))
        first = found.tried[0]
        if not found.sure:
            ways = "; or ".join(f"{t.reading.about} (--do '{t.phrase}')" for t in found.tried[:3])
            raise InputError(f"That may mean: {ways}. Say which with --do.")
        self.before.append(found)
        self._stand(
            f"{first.reading.about}: {first.phrase}" + (f" ({first.words})" if first.words else ""), first.context
        )

    def _stand(self, words: str, after: EditContext) -> None:
        asks = after.asks
        for ask in asks:
            if ask.what == "undo":
                self._back()
            elif ask.what == "redo":
                self._on()
            elif ask.what == "describe":
                words = "\n".join(_described(after, ask.some))
            elif ask.what != "check":
                words = f"{words}. {_ONLY_HEARD}" if words else _ONLY_HEARD
        if words:
            self.told.append(words)
        if asks:
            return
        if after.document is not self.context.document:
            self.past.append(self.context)
            self.undone.clear()
        self.context = replace(after, asks=())

    def _back(self) -> None:
        if not self.past:
            raise InputError("Nothing to take back.")
        self.undone.append(self.context)
        self.context = self.past.pop()
        self.told.append("Taken back")

    def _on(self) -> None:
        if not self.undone:
            raise InputError("Nothing to do again.")
        self.past.append(self.context)
        self.context = self.undone.pop()
        self.told.append("Done again")
