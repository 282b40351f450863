"""The small networks that measure pictures; they run off the GUI thread and keep no state."""

from __future__ import annotations

from functools import lru_cache
from typing import Any

from wamplex.core.base.onnx_runtime import load_onnxruntime
from wamplex.core.base.resources import MODELS_DIR


@lru_cache(maxsize=8)
def small_network(name: str) -> Any:
    """Session of a network that comes with the program, by its file's name; an ``InferenceSession``."""
    onnxruntime = load_onnxruntime()
    options = onnxruntime.SessionOptions()
    options.intra_op_num_threads = 1  # run beside other measurements, and behind the window
    options.log_severity_level = 3
    options.enable_cpu_mem_arena = False  # it would keep what the largest picture took
    path = MODELS_DIR / name
    return onnxruntime.InferenceSession(str(path), options, providers=["CPUExecutionProvider"])
