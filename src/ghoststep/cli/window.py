"""Open the window, or say why there is none."""

from pathlib import Path


def open_window(file: Path | None, *, demo: bool, out: Path | None = None) -> int:
    """Start the desk; imported here, since only this command needs Qt."""
    from ghoststep.desk.app.running import run

    return run(file, demo=demo, out=out)
