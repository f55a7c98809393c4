"""Which tests stand nearest to a module: those that import it, those of its package, those of who imports it."""

import re
from functools import cache
from pathlib import Path

_MOST = 10
_QUICK = "test_golden.py"


def tests_near(file: Path, root: Path) -> list[str]:
    """Test files for a module, the nearest first; of equally near ones the shorter first."""
    module = _module(file, root)
    package = module.split(".")[1]
    users = [_module(p, root) for p, text in _sources(root) if p != file and _mentions(text, module)]
    scored = []
    for test, text in _tests(root, package):
        near = 100 * _mentions(text, module) + 10 * (test.parent.name == package)
        near += sum(bool(_mentions(text, user)) for user in users)
        if near:
            scored.append((-near, len(text), test))
    nearest = [t for *_, t in sorted(scored)[:_MOST]]
    # What compares a great many outcomes in a second goes first: a fault that it notices is soon done with.
    quick = [t for *_, t in scored if t.name == _QUICK]
    return [str(t.relative_to(root)) for t in dict.fromkeys([*quick, *nearest])]


def _module(file: Path, root: Path) -> str:
    return ".".join(file.relative_to(root / "src").with_suffix("").parts)


def _mentions(text: str, module: str) -> int:
    package, _, name = module.rpartition(".")
    return len(re.findall(rf"\b{re.escape(module)}\b|from {re.escape(package)} import [^\n]*\b{name}\b", text))


@cache
def _sources(root: Path) -> tuple[tuple[Path, str], ...]:
    return tuple((p, p.read_text()) for p in sorted((root / "src").rglob("*.py")) if p.name != "__init__.py")


@cache
def _tests(root: Path, package: str) -> tuple[tuple[Path, str], ...]:
    """The tests; those of the window and of listening take long, and are run for their own package only."""
    slow = {"desk", "listen"} - {package}
    files = [p for p in sorted((root / "tests").rglob("test_*.py")) if p.parent.name not in slow]
    return tuple((p, p.read_text()) for p in files)
