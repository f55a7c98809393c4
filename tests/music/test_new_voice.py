"""A new voice is a row of the kit's table and a recipe of its sound; it is then found in every place."""

import os
import subprocess
import sys
from pathlib import Path

PROGRAM = """
import importlib.util, sys
from pathlib import Path

folder = Path(importlib.util.find_spec("ghoststep.music").submodule_search_locations[0])
text = (folder / "kit.py").read_text()
row = 'Voice("gong", "Gong", "cymbals", "China", "R", (60,), (1.4, 0.9), ("china",), ("tam_tam", "gongs"), ' \\
      'head="diamond", mark="dot", kind="crash", traits=(*_METAL_TRAITS, "time"), dice=21),'
assert text.count(")  # fmt: skip\\nHEARD_VOICES") == 1
spec = importlib.util.spec_from_file_location("ghoststep.music.kit", folder / "kit.py")
kit = importlib.util.module_from_spec(spec)
sys.modules["ghoststep.music.kit"] = kit
exec(compile(text.replace(")  # fmt: skip\\nHEARD_VOICES", row + ")\\nHEARD_VOICES"), "kit.py", "exec"), kit.__dict__)
from dataclasses import replace
from ghoststep.sound.recipe import NIGHT_TRAM_KIT
NIGHT_TRAM_KIT["gong"] = replace(NIGHT_TRAM_KIT["crash"], pan=0.4)

from ghoststep.cli.main import main
from ghoststep.files.keymap import general_midi_keys
from ghoststep.judge.kit_setup import STANDARD
from ghoststep.listen.bars.usual import CLASSES, class_of
from ghoststep.music.kit import HEARD_VOICES, LANE_OF_VOICE, LANES, strokes_of
from ghoststep.session.language.voice_words import voice_named
from ghoststep.work.opening import open_document

here = Path(sys.argv[1])
assert len(HEARD_VOICES) == 14 and "gong" in LANES[LANE_OF_VOICE["china"]].voices
assert voice_named("gongs") == voice_named("tam-tam") == "gong"
assert STANDARD.stand_of("gong") == (1.4, 0.9) and CLASSES[class_of("gong", 100)] == "crash"
assert "shoulder" in [s.name for s in strokes_of("gong")]
for out in ("a.grid.txt", "a.ghoststep", "a.mid"):
    assert main(["edit", str(here / "start.grid.txt"), "--do", "place gong 1", "-o", str(here / out)]) == 0
    again = open_document(here / out, general_midi_keys()).groove
    assert [h.voice for h in again.pattern.hits if h.voice == "gong"] == ["gong"], out
assert main(["render", str(here / "a.mid"), str(here / "a.wav")]) == 0
assert main(["edit", str(here / "a.ghoststep"), "--do", "balance hat-led", "--do", "length 1/4 on gong"]) == 0
assert main(["check", str(here / "a.ghoststep")]) in (0, 1)
assert main(["listen", str(here / "a.wav")]) == 0

from ghoststep.desk.app.start import make_app, make_window
app = make_app()
window = make_window()
window.studio.set_document(open_document(here / "a.ghoststep", general_midi_keys()), None)
window.go("place")
window.resize(1280, 800)
window.show()
from ghoststep.desk.look.stems import head_pixmap
gong = next(h for h in window.studio.groove.pattern.hits if h.voice == "gong")
assert not head_pixmap(gong, chosen=False, size="full", ratio=1.0).isNull()
window.studio.history.mark_saved(window.studio.document)
window.close()
print("found everywhere")
"""


def test_a_voice_that_is_added_is_found_in_every_place(tmp_path: Path) -> None:
    (tmp_path / "start.grid.txt").write_text("tempo 100\nhat_closed x-x-x-x-x-x-x-x-\nsnare ----X-------X---\n")
    env = {**os.environ, "QT_QPA_PLATFORM": "offscreen"}
    done = subprocess.run(
        [sys.executable, "-c", PROGRAM, str(tmp_path)],
        capture_output=True,
        text=True,
        timeout=120,
        env=env,
        check=False,
    )
    assert done.returncode == 0 and done.stdout.endswith("found everywhere\n"), done.stdout[-500:] + done.stderr[-2000:]
