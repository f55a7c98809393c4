"""Which tests stand nearest to a module: those that import it, and those of its package."""

import re
from functools import cache
from pathlib import Path

_MOST = 8


def tests_near(file: Path, root: Path) -> list[str]:
    """Test files for a module, the nearest first: more mentions of it, then of its package, in shorter files first."""
    module = ".".join(file.relative_to(root / "src").with_suffix("").parts)
    package = module.split(".")[1]
    scored = []
    for test, text in _tests(root):
        mentions = len(re.findall(rf"\b{re.escape(module)}\b|import {re.escape(file.stem)}\b", text))
        same = test.parent.name == package
        if mentions or same:
            scored.append((-mentions, not same, len(text), test))
    return [str(t.relative_to(root)) for *_, t in sorted(scored)[:_MOST]]


@cache
def _tests(root: Path) -> tuple[tuple[Path, str], ...]:
    files = [p for p in sorted((root / "tests").rglob("test_*.py")) if p.parent.name not in ("desk", "listen")]
    return tuple((p, p.read_text()) for p in files)
