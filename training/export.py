"""Writes trained networks as ONNX, one file per factor, and checks them against the checkpoint."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import onnxruntime
import torch
from torch import Tensor, nn

from training.network import FACTORS, GRADES, Enlarger
from training.places import checkpoint_path

_OPSET = 17


class _OneFactor(nn.Module):
    def __init__(self, network: Enlarger, factor: int) -> None:
        super().__init__()
        self._network = network
        self._factor = factor

    def forward(self, source: Tensor) -> Tensor:
        return self._network(source, self._factor)


def export_vellum(work: Path, *, grade: str, out_dir: Path) -> None:
    """Export every factor of one grade and compare ONNX Runtime's result with torch's."""
    network = Enlarger(GRADES[grade])
    state = torch.load(checkpoint_path(work, grade), weights_only=True)
    network.load_state_dict(state["network"])
    network.eval()
    out_dir.mkdir(parents=True, exist_ok=True)
    for factor in FACTORS:
        path = out_dir / f"vellum-{grade}-{factor}x.onnx"
        single = _OneFactor(network, factor)
        sample = torch.rand(1, 3, 24, 31)
        torch.onnx.export(
            single,
            (sample,),
            str(path),
            dynamo=False,
            opset_version=_OPSET,
            input_names=["source"],
            output_names=["result"],
            dynamic_axes={"source": {2: "height", 3: "width"}, "result": {2: "height_out", 3: "width_out"}},
        )
        session = onnxruntime.InferenceSession(str(path), providers=["CPUExecutionProvider"])
        (made,) = session.run(None, {"source": sample.numpy()})
        with torch.no_grad():
            difference = float(np.abs(made - single(sample).numpy()).max())
        if difference > 1e-4:
            raise SystemExit(f"{path.name} differs from the checkpoint by {difference:.2g}")
        megabytes = path.stat().st_size / 1e6
        print(f"{path.name}: step {state['step']}, {megabytes:.2f} MB, agrees to {difference:.1g}")
