"""Sound files: the groove played by a kit."""

from pathlib import Path

from ghoststep.files.safe import shown
from ghoststep.session.document.document import Document
from ghoststep.work.formats import Output
from ghoststep.work.kits import default_kit
from ghoststep.work.rendering import Rendering, render_to


def write(path: Path, document: Document, output: Output) -> tuple[str, ...]:
    """Render a groove with what rings on; said are its length and where bar 1 begins."""
    what = Rendering(document.groove, output.kit or default_kit())
    length_s = render_to(path, what, progress=output.progress)
    told = f"{shown(path)} written, {length_s:.1f} s of sound"
    return (told + (f"; it {what.lead_words}" if what.lead_words else ""),)
