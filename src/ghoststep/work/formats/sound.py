"""Sound files: the groove played by a kit."""

from pathlib import Path

from ghoststep.files.safe import shown
from ghoststep.session.document.document import Document
from ghoststep.work.formats import Output
from ghoststep.work.kits import FoundKit, kit_or_default
from ghoststep.work.rendering import Rendering, render_to


def write(path: Path, document: Document, output: Output) -> tuple[str, ...]:
    """Render a groove with what rings on; said are its length and where bar 1 begins."""
    found = FoundKit(output.kit) if output.kit else kit_or_default(document.kit)
    what = Rendering(document.groove, found.kit)
    length_s = render_to(path, what, progress=output.progress)
    told = f"{shown(path)} written, {length_s:.1f} s of sound"
    return (told + (f"; it {what.lead_words}" if what.lead_words else ""), *found.trouble)
