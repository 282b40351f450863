"""ONNX Runtime sessions: made once for each network, on the chosen processor with the chosen threads."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path
from typing import Any

import numpy as np

from wamplex.core.upscale.execution import CPU, Execution, current_execution


@dataclass(frozen=True)
class Model:
    """Weights to run: those of ``path``, or a blend on the way ``toward`` another file of the same shape.

    Attributes
    ----------
    share : 0 for the weights of ``path``, 1 for those of ``toward``
    """

    path: Path
    toward: Path | None = None
    share: float = 0.0


def load_session(model: Model) -> Any:
    """Session for a network under the current execution setting."""
    return _session(model, current_execution())


@lru_cache(maxsize=24)
def _session(model: Model, execution: Execution) -> Any:
    import onnxruntime

    options = onnxruntime.SessionOptions()
    options.intra_op_num_threads = execution.threads
    options.log_severity_level = 3
    # Planning all layers as one block takes half as much memory again, and saves no time.
    options.enable_mem_pattern = False
    # Its threads would go on turning for the next layer while ours bring the planes together.
    options.add_session_config_entry("session.force_spinning_stop", "1")
    providers = [CPU] if execution.provider == CPU else [execution.provider, CPU]
    weights: str | bytes = str(model.path)
    if model.toward is not None and model.share > 0:
        weights = str(model.toward) if model.share >= 1 else _blended(model.path, model.toward, model.share)
    return onnxruntime.InferenceSession(weights, options, providers=providers)


def _blended(path: Path, toward: Path, share: float) -> bytes:
    """Network interpolation (Wang et al. 2018): a blend of all weights.

    What only ``toward`` has is blended from zeros: its further convolutions add to what is there, so that
    they add nothing then, and its further planes have no effect.
    """
    import onnx
    from onnx import numpy_helper

    model = onnx.load(toward)
    starts = {t.name: numpy_helper.to_array(t) for t in onnx.load(path).graph.initializer}
    for tensor in model.graph.initializer:
        weights = numpy_helper.to_array(tensor)
        if weights.dtype.kind != "f":
            continue
        start = np.zeros_like(weights)
        known = starts.get(tensor.name)
        if known is not None:
            start[tuple(slice(n) for n in known.shape)] = known
        mixed = (1 - share) * start + share * weights
        tensor.CopyFrom(numpy_helper.from_array(mixed.astype(weights.dtype), tensor.name))
    blended: bytes = model.SerializeToString()
    return blended
