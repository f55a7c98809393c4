"""Real Fourier transforms along the last axis, in the precision of what they are given.

SciPy's are four times as fast as NumPy's on many short rows, but importing `scipy.fft` takes a quarter of a second,
for things that are not needed here, which is as long as hearing a loop takes. So its one compiled part is loaded by
itself; where it is not found as expected, NumPy's transforms serve, which give the same to rounding.
"""

from collections.abc import Callable
from functools import lru_cache
from importlib.machinery import EXTENSION_SUFFIXES
from importlib.util import find_spec, module_from_spec, spec_from_file_location
from pathlib import Path
from types import ModuleType
from typing import Any

import numpy as np
from numpy.typing import NDArray

_PART = Path("fft", "_pocketfft", "pypocketfft")
_FORWARD_NORM, _BACKWARD_NORM = 0, 2  # no factor, and one over the length


@lru_cache(maxsize=1)
def _compiled() -> ModuleType | None:
    """SciPy's compiled transforms, without the rest of SciPy; None where they lie elsewhere."""
    package = find_spec("scipy")
    for folder in package.submodule_search_locations or () if package else ():
        for suffix in EXTENSION_SUFFIXES:
            file = Path(folder, _PART).with_suffix(suffix)
            spec = spec_from_file_location("pypocketfft", file) if file.exists() else None
            if spec is not None and spec.loader is not None:
                module = module_from_spec(spec)
                spec.loader.exec_module(module)
                return module if hasattr(module, "r2c") and hasattr(module, "c2r") else None
    return None


def rfft(values: NDArray[Any]) -> NDArray[Any]:
    """The transform of real values; shape (..., n) to (..., n // 2 + 1)."""
    fast = _compiled()
    if fast is None:
        return np.asarray(np.fft.rfft(values))
    transform: Callable[..., NDArray[Any]] = fast.r2c
    return transform(values, (values.ndim - 1,), True, _FORWARD_NORM, None, 1)


def irfft(spectrum: NDArray[Any], length: int) -> NDArray[Any]:
    """The real values of a spectrum, of an even length; shape (..., length // 2 + 1) to (..., length)."""
    fast = _compiled()
    if fast is None:
        return np.asarray(np.fft.irfft(spectrum, length))
    transform: Callable[..., NDArray[Any]] = fast.c2r
    return transform(spectrum, (spectrum.ndim - 1,), length, False, _BACKWARD_NORM, None, 1)
