"""Writes trained networks as ONNX, one file per factor, and checks them against the checkpoint."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import onnx
import onnxruntime
import torch
from torch import Tensor, nn

from training.families import Family
from training.network import Enlarger
from training.places import checkpoint_path
from training.shipped import model_path

_OPSET = 17


class _OneFactor(nn.Module):
    def __init__(self, network: Enlarger, factor: int) -> None:
        super().__init__()
        self._network = network
        self._factor = factor

    def forward(self, source: Tensor) -> Tensor:
        result: Tensor = self._network(source, self._factor)
        return result


def export(work: Path, family: Family, *, out_dir: Path) -> None:
    """Export every factor of a family and compare ONNX Runtime's result with torch's."""
    network = Enlarger(family)
    state = torch.load(checkpoint_path(work, family.name), weights_only=True)
    network.load_state_dict(state["network"])
    network.eval()
    out_dir.mkdir(parents=True, exist_ok=True)
    notes = {
        "steps": str(state["steps"]),
        "minutes": f"{state['minutes'] + state['used_s'] / 60:.1f}",
        "family": family.name,
    }
    for factor in family.factors:
        path = model_path(out_dir, family.name, factor)
        difference = _write(path, _OneFactor(network, factor), family.planes(factor), notes)
        if difference > 1e-4:
            raise SystemExit(f"{path.name} differs from the checkpoint by {difference:.2g}")
        megabytes = path.stat().st_size / 1e6
        print(f"{path.name}: step {state['steps']}, {megabytes:.2f} MB, agrees to {difference:.1g}")


def _write(path: Path, network: _OneFactor, inputs: int, notes: dict[str, str]) -> float:
    """Write one file; the largest difference between its result and torch's."""
    sample = torch.rand(1, inputs, 24, 30)
    torch.onnx.export(
        network,
        (sample,),
        str(path),
        dynamo=False,
        opset_version=_OPSET,
        do_constant_folding=False,  # weights must be found again by their names
        input_names=["source"],
        output_names=["result"],
        dynamic_axes={"source": {2: "height", 3: "width"}, "result": {2: "height_out", 3: "width_out"}},
    )
    model = onnx.load(path)
    onnx.helper.set_model_props(model, notes)
    onnx.save(model, path)
    session = onnxruntime.InferenceSession(str(path), providers=["CPUExecutionProvider"])
    (made,) = session.run(None, {"source": sample.numpy()})
    with torch.no_grad():
        return float(np.abs(made - network(sample).numpy()).max())
