"""What a package offers at its door, loaded when it is first asked for: opening one drawer does not open all."""

from collections.abc import Callable, Mapping
from importlib import import_module
from typing import Any


def offered(package: str, where: Mapping[str, str]) -> tuple[Callable[[str], Any], Callable[[], list[str]]]:
    """The `__getattr__` and `__dir__` of a package (PEP 562) that offers names from its modules.

    A name that is also a module of the package cannot be offered: importing the module would hide it.

    where: name to module, inside the package.
    """

    def get(name: str) -> Any:
        if name not in where:
            raise AttributeError(f"{package} offers no {name}; it offers {', '.join(sorted(where))}.")
        return getattr(import_module(f"{package}.{where[name]}"), name)

    return get, lambda: sorted(where)
