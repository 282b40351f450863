"""Libraries that load slowly, imported at their first use so that the window opens quickly.

They are loaded one after the other: two threads that import different parts of SciPy at the same time can
meet in the middle of its circular imports, and both fail.
"""

from __future__ import annotations

import importlib
import threading
from types import ModuleType
from typing import Any

from wamplex.core.base.onnx_runtime import load_onnxruntime

_one_at_a_time = threading.RLock()


class _Lazy:
    """Stands for a module until something of it is used."""

    def __init__(self, name: str) -> None:
        self._name = name
        self._module: ModuleType | None = None

    def __getattr__(self, attribute: str) -> Any:
        if self._module is None:
            with _one_at_a_time:
                self._module = importlib.import_module(self._name)
        return getattr(self._module, attribute)


ndimage: Any = _Lazy("scipy.ndimage")
fft: Any = _Lazy("scipy.fft")
special: Any = _Lazy("scipy.special")
sparse: Any = _Lazy("scipy.sparse")
cv2: Any = _Lazy("cv2")


def load_all() -> None:
    """Load all of them now, and what networks run on."""
    for module in (ndimage, fft, special, sparse, cv2):
        _ = module.__name__
    load_onnxruntime()
