"""Wamplex enlarges pictures for print and lets you compare how.

In a script::

    import wamplex

    big = wamplex.enlarge(image, factor=2)

takes NumPy arrays and Pillow images and returns the same kind. `open`, `assess`, `readings`, `compare` and `upscalers`
are the other functions. Nothing heavy is loaded before the first of them is used.
"""

import os
from typing import TYPE_CHECKING, Any

# Matrix products on several threads are hardly faster here, but their threads wait for the next ones in a
# loop and keep a core from the networks meanwhile: what follows a network costs twice as much then. The
# number is read when NumPy is loaded, hence here.
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")

# Keeps ONNX Runtime from reporting to its maker, also in every process started from here. It reads this when
# it is loaded.
os.environ["ORT_DISABLE_TELEMETRY"] = "1"

if TYPE_CHECKING:
    from wamplex.core.base.errors import Cancelled, WamplexError
    from wamplex.core.model.picture import Picture
    from wamplex.library.functions import assess, compare, enlarge, open, readings, upscalers

    __version__: str

__all__ = [
    "Cancelled",
    "Picture",
    "WamplexError",
    "__version__",
    "assess",
    "compare",
    "enlarge",
    "open",
    "readings",
    "upscalers",
]
_MODULES = {
    "Cancelled": "wamplex.core.base.errors",
    "WamplexError": "wamplex.core.base.errors",
    "Picture": "wamplex.core.model.picture",
}


def __getattr__(name: str) -> Any:
    if name == "__version__":
        from importlib.metadata import version

        return version("wamplex")
    if name not in __all__:
        raise AttributeError(f"module 'wamplex' has no attribute {name!r}")
    from importlib import import_module

    return getattr(import_module(_MODULES.get(name, "wamplex.library.functions")), name)


def __dir__() -> list[str]:
    return sorted(__all__)
