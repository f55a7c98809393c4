"""What each package offers at its door."""

import ast
import subprocess
import sys
from importlib import import_module, resources

import pytest

DOORS = ("music", "feel", "listen", "craft", "judge", "sound", "session", "files", "devices", "work")


@pytest.mark.parametrize("name", DOORS)
def test_what_is_offered_is_there_and_is_told_to_the_type_checker(name: str) -> None:
    package = import_module(f"ghoststep.{name}")
    for offer, module in package.OFFERS.items():
        assert getattr(package, offer) is getattr(import_module(f"ghoststep.{name}.{module}"), offer)
    text = (resources.files(f"ghoststep.{name}") / "__init__.py").read_text(encoding="utf-8")
    told = {
        alias.name: str(node.module).removeprefix(f"ghoststep.{name}.")
        for node in ast.walk(ast.parse(text))
        if isinstance(node, ast.ImportFrom) and str(node.module).startswith(f"ghoststep.{name}.")
        for alias in node.names
    }
    assert told == package.OFFERS and dir(package) == sorted(package.OFFERS)
    with pytest.raises(AttributeError, match="offers no nothing_like_it"):
        package.nothing_like_it  # noqa: B018


def test_a_door_that_is_passed_loads_nothing_else() -> None:
    code = (
        "import sys, ghoststep.files, ghoststep.work, ghoststep.session; print(sorted(m for m in sys.modules if m in ("
    )
    code += "'numpy', 'mido', 'soundfile', 'scipy', 'PySide6')))"
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
    assert done.stdout.strip() == "[]"
