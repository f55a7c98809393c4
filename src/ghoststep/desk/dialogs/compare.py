"""Two versions side by side, or heard without their names."""

from ghoststep.desk.dialogs.compare_dialog import BlindDialog, CompareDialog
from ghoststep.desk.model.places import Desk
from ghoststep.music.errors import InputError
from ghoststep.music.groove import Groove
from ghoststep.session.edits import version_edits as versions


def _versions(desk: Desk) -> list[tuple[str, Groove]]:
    """What can be compared: now, what was kept, what was heard."""
    document = desk.studio.document
    out = [("now", document.groove), *((s.name, s.groove) for s in document.snapshots)]
    if document.listening is not None:
        out.append(("as heard", document.listening.explained.groove))
    if len(out) < 2:
        raise InputError("There is nothing to compare with: keep a version first (Ctrl+Shift+K).")
    return out


def compare(desk: Desk) -> None:
    """Two versions side by side."""
    CompareDialog(_versions(desk), desk.studio.try_out, desk.at(desk.place)).exec()
    desk.studio.try_out(None)


def compare_blind(desk: Desk) -> None:
    """Hear versions without their names, choose one, and be told which it was."""
    judge_blind(desk, _versions(desk))


def judge_blind(desk: Desk, among: list[tuple[str, Groove]]) -> None:
    """Let one of some versions be chosen by ear; which it was is told then and kept."""
    dialog = BlindDialog(among, desk.studio.try_out, desk.at(desk.place))
    dialog.exec()
    desk.studio.try_out(None)
    if dialog.verdict is not None:
        chosen, names = dialog.verdict
        desk.studio.edit(lambda d: versions.judged(d, chosen, names))
