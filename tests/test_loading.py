"""Parts of the program are loaded when they are first needed, on whichever thread needs them."""

import ast
import subprocess
import sys
from pathlib import Path

import ghoststep

ROOT = Path(ghoststep.__file__).parent
TOGETHER = """
import sys, threading
from importlib import import_module
sys.setswitchinterval(1e-5)
wrong, start = [], threading.Barrier({count})
def load(name):
    start.wait()
    try:
        import_module(name)
        from ghoststep.session.language.doing import do
        from ghoststep.session.language.edit_context import EditContext
        from ghoststep.session.document.document import Document
        do(EditContext(Document()), "place kick 1")
    except Exception as error:
        wrong.append(repr(error))
threads = [threading.Thread(target=load, args=(name,)) for name in {names!r}]
[t.start() for t in threads]
[t.join() for t in threads]
print(wrong)
"""
LATE = (
    "ghoststep.work.formats.grid", "ghoststep.session.language.kinds", "ghoststep.session.language.doing",
    "ghoststep.work.grooves", "ghoststep.work.formats.project",
)  # fmt: skip


def test_threads_that_load_the_language_together_do_not_meet_it_half_loaded() -> None:
    code = TOGETHER.format(count=len(LATE), names=LATE)
    for _ in range(4):
        done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
        assert done.stdout.strip() == "[]", done.stdout


def _name(file: Path) -> str:
    parts = file.relative_to(ROOT.parent).with_suffix("").parts
    return ".".join(parts[:-1] if parts[-1] == "__init__" else parts)


def _needs(tree: ast.Module, known: set[str]) -> set[str]:
    """What a module imports as it is loaded, and not only for types or inside functions."""
    out: set[str] = set()
    waiting: list[ast.stmt] = list(tree.body)
    while waiting:
        node = waiting.pop()
        if isinstance(node, ast.ImportFrom):
            whole = [f"{node.module}.{alias.name}" for alias in node.names]
            out |= {name if name in known else str(node.module) for name in whole}
        elif isinstance(node, ast.If) and "TYPE_CHECKING" not in ast.unparse(node.test):
            waiting += node.body
    return out & known


def test_nothing_is_loaded_in_a_circle() -> None:
    files = {_name(file): file for file in ROOT.rglob("*.py")}
    needs = {name: _needs(ast.parse(file.read_text("utf-8")), set(files)) for name, file in files.items()}
    done: set[str] = set()
    while True:
        free = {name for name, wanted in needs.items() if name not in done and wanted - {name} <= done}
        if not free:
            break
        done |= free
    assert done == set(files), sorted(set(files) - done)[:12]


def test_a_package_whose_door_loads_its_rooms_is_known_before_threads_are_or_to_itself_alone() -> None:
    """What a thread finds half loaded is a package that loads its own modules; those that do are few, and known."""
    eager = set()
    for file in ROOT.rglob("__init__.py"):
        package = _name(file)
        known = {_name(f) for f in file.parent.rglob("*.py")} - {package}
        if _needs(ast.parse(file.read_text("utf-8")), known):
            eager.add(package)
    assert eager <= {"ghoststep.session.commands", "ghoststep.session.language.verbs"}
