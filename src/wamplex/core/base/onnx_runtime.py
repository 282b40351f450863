"""Loads ONNX Runtime with its telemetry off: nothing leaves the computer."""

from __future__ import annotations

import os
from functools import cache
from typing import Any

# Only the variable keeps the runtime silent. With the function alone, version 1.32 still looks up a host of
# its maker when the first session opens, and writes an identifier below the user's cache folder.
TELEMETRY_OFF = {"ORT_DISABLE_TELEMETRY": "1"}


@cache
def load_onnxruntime() -> Any:
    """Import ONNX Runtime; the only place of the program that does.

    Returns
    -------
    The module ``onnxruntime``, which never sends events.
    """
    os.environ.update(TELEMETRY_OFF)
    import onnxruntime

    onnxruntime.disable_telemetry_events()
    return onnxruntime
