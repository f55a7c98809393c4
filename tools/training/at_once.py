"""Work done by several processes that share what is large."""

import multiprocessing
from collections.abc import Callable, Iterable, Iterator
from typing import Any, TypeVar

Result = TypeVar("Result")
_shared: list[Callable[[int], Any]] = []


def at_once(work: Callable[[int], Result], numbers: Iterable[int], processes: int) -> Iterator[Result]:
    """The results in the order of the numbers; what `work` holds is shared by forking, not copied for each of them."""
    with multiprocessing.get_context("fork").Pool(processes, _shared.append, (work,)) as pool:
        yield from pool.imap(_worked, numbers)


def _worked(number: int) -> Any:
    return _shared[-1](number)
