"""Writes trained networks as ONNX, one file per factor, and checks them against the checkpoint.

Weights are stored in half precision, which halves the files, and widened when a session is made. What is
checked against is the checkpoint with its weights rounded so.
"""

from __future__ import annotations

from pathlib import Path

import numpy as np
import onnx
import onnxruntime
import torch
from onnx import numpy_helper
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
    network.load_state_dict({key: _rounded(value) for key, value in state["network"].items()})
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
        if difference > 1 / 65535:
            raise SystemExit(f"{path.name} differs from the checkpoint by {difference:.2g}")
        megabytes = path.stat().st_size / 1e6
        print(f"{path.name}: step {state['steps']}, {megabytes:.2f} MB, agrees to {difference:.1g}")


def _rounded(weights: Tensor) -> Tensor:
    return weights.half().float() if weights.is_floating_point() else weights


def halved(model: onnx.ModelProto) -> onnx.ModelProto:
    """The same model with weights in half precision, which keep their names and are widened in the graph."""
    graph = model.graph
    widened = []
    for tensor in graph.initializer:
        weights = numpy_helper.to_array(tensor)
        if weights.dtype != np.float32:
            continue
        tensor.CopyFrom(numpy_helper.from_array(weights.astype(np.float16), tensor.name))
        wide = f"{tensor.name}.wide"
        for node in graph.node:
            for place, name in enumerate(node.input):
                if name == tensor.name:
                    node.input[place] = wide
        widened.append(onnx.helper.make_node("Cast", [tensor.name], [wide], to=onnx.TensorProto.FLOAT))
    nodes = [*widened, *graph.node]
    del graph.node[:]
    graph.node.extend(nodes)
    return model


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
    model = halved(onnx.load(path))
    onnx.helper.set_model_props(model, notes)
    onnx.save(model, path)
    session = onnxruntime.InferenceSession(str(path), providers=["CPUExecutionProvider"])
    (made,) = session.run(None, {"source": sample.numpy()})
    with torch.no_grad():
        return float(np.abs(made - network(sample).numpy()).max())
