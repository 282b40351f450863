"""The network that reads a picture's condition: softness, sharpening, noise and medium from its traits.

First pictures of known history are described by the features (``describe``, as many as there is time for;
they are kept), then a small network learns to tell the history from the traits.
"""

from __future__ import annotations

import math
import os
import time
from pathlib import Path

import cv2
import numpy as np
import onnx
import torch
from torch import Tensor, nn
from torch.nn import functional

from training.families import Family
from training.history import History, apply, balance, drawn, noise_after
from training.patches import PatchSource
from wamplex.core.analysis.degradation.degradation_estimator import KINDS, QUANTITIES
from wamplex.core.analysis.degradation.features import compute_features

NAME = "reader"
_SHARES = {"photographs": 0.62, "paintings": 0.08, "drawings": 0.16, "lettering": 0.14}
_KIND_OF = {"photographs": 0, "drawings": 1, "lettering": 2}
_FACTORS, _FACTOR_SHARES = (2, 3, 4, 5), (0.25, 0.25, 0.3, 0.2)
_SIDES_PX = (80, 420)
_LARGEST_CUT_PX = 1000
_GRID_PX = 8
_A_SHARD = 500
_WIDTH, _BATCH, _RATE = 160, 256, 2e-3
_EPOCHS = 60
_LEAST_DOUBT = 0.01
_WEIGHTS = (3.0, 2.0, 1.0, 1.0, 0.6)  # of the quantities' misses
_HELD_BACK = 0.05


def examples_dir(work: Path) -> Path:
    """Folder of the described pictures."""
    return work / "reader"


def describe(work: Path, minutes: float, seed: int) -> None:
    """Describe pictures of random history for some minutes, with a single core; shards are added."""
    cv2.setNumThreads(1)
    folder = examples_dir(work)
    folder.mkdir(parents=True, exist_ok=True)
    source = PatchSource(work, Family(NAME, picture_shares=_SHARES), seed)
    end = time.monotonic() + minutes * 60
    number = 0
    while time.monotonic() < end:
        rows = [_example(source) for _ in range(_A_SHARD)]
        described, wanted, kinds = (np.array(part) for part in zip(*rows, strict=True))
        path = folder / f"{seed}-{number:04}.npz"
        np.savez(path, traits=described.astype(np.float32), wanted=wanted, kinds=kinds)
        number += 1
        print(f"{path.name}: {number * _A_SHARD} pictures", flush=True)


def _example(source: PatchSource) -> tuple[np.ndarray, list[float], int]:
    random = source.random
    factor = int(random.choice(_FACTORS, p=_FACTOR_SHARES))
    longest = min(_SIDES_PX[1], _LARGEST_CUT_PX // factor)
    side = int(np.exp(random.uniform(*np.log((_SIDES_PX[0], longest)))))
    large, collection = source.cut_with_collection((side + _GRID_PX) * factor)
    history = drawn(random, clean_share=0.15)
    small = apply(large, (side + _GRID_PX, side + _GRID_PX), history, random)
    # Mostly whole files, whose grid begins at the corner.
    y, x = (0, 0) if random.random() < 0.75 else random.integers(0, _GRID_PX + 1, 2)
    pixels = small[y : y + side, x : x + side].astype(np.float32) / np.float32(255)
    blocks = 0.0 if random.random() < 0.08 else history.blocks  # some were saved otherwise since
    return (
        compute_features(pixels, blocks),
        quantities(history, small),
        _KIND_OF.get(collection, -1),
    )


def quantities(history: History, small: np.ndarray) -> list[float]:
    """What is to be found, in the order and the scales of `QUANTITIES`."""
    softness, sharpening = balance(history)
    noise, colour = noise_after(history, small)
    return [softness, sharpening, history.amount, math.log1p(noise), math.log1p(colour)]


class Reader(nn.Module):
    """Input (N, traits). Output (N, 2 Q + K): the Q quantities, the logarithm of the doubt about each, and a
    number for each of K media, of which the largest is meant.
    """

    def __init__(self, mean: Tensor, spread: Tensor) -> None:
        super().__init__()
        self.register_buffer("mean", mean)
        self.register_buffer("spread", spread)
        self.first = nn.Linear(len(mean), _WIDTH)
        self.middle = nn.ModuleList(nn.Linear(_WIDTH, _WIDTH) for _ in range(3))
        self.last = nn.Linear(_WIDTH, 2 * len(QUANTITIES) + len(KINDS))

    def forward(self, described: Tensor) -> Tensor:
        x = functional.relu(self.first(((described - self.mean) / self.spread).clamp(-5, 5)))
        for layer in self.middle:
            x = x + functional.relu(layer(functional.dropout(x, 0.1, self.training)))
        made: Tensor = self.last(x)
        return made


def loss_of(made: Tensor, wanted: Tensor, kinds: Tensor) -> Tensor:
    """Mean misses of the quantities, how likely those are under the doubt (Laplace), and of the media."""
    count = len(QUANTITIES)
    misses = functional.huber_loss(made[:, :count], wanted, reduction="none", delta=0.1) * 10
    doubt = made[:, count : 2 * count].clamp(math.log(_LEAST_DOUBT), 2)
    off = (made[:, :count] - wanted).abs().detach()
    likelihood = (off * torch.exp(-doubt) + doubt).mean()
    media = functional.cross_entropy(made[:, 2 * count :], kinds, ignore_index=-1)
    return (misses * misses.new_tensor(_WEIGHTS)).mean() + 0.2 * likelihood + 0.2 * media


def examples(work: Path) -> tuple[Tensor, Tensor, Tensor]:
    """Everything that was described: traits, quantities and media."""
    shards = [np.load(path) for path in sorted(examples_dir(work).glob("*.npz"))]
    described, wanted, kinds = (
        torch.from_numpy(np.concatenate([shard[part] for shard in shards])) for part in ("traits", "wanted", "kinds")
    )
    return described, wanted.float(), kinds


def kept_back(described: Tensor) -> int:
    """How many, the last ones, nothing is learned from."""
    return math.ceil(len(described) * _HELD_BACK)


def train_reader(work: Path, seed: int) -> None:
    """Learn from everything that was described; takes some minutes."""
    described, wanted, kinds = examples(work)
    network = learned(described, wanted, kinds, seed)
    _save(work, network, len(described))


def learned(described: Tensor, wanted: Tensor, kinds: Tensor, seed: int, most: int | None = None) -> Reader:
    """A network that learned from the first ``most``; the last twentieth is kept back."""
    torch.manual_seed(seed)
    kept = len(described) - kept_back(described)
    count = min(most or kept, kept)
    network = Reader(described[:count].mean(dim=0), described[:count].std(dim=0) + 1e-3)
    optimizer = torch.optim.AdamW(network.parameters(), lr=_RATE, weight_decay=1e-3)
    steps = _EPOCHS * (count // _BATCH)
    schedule = torch.optim.lr_scheduler.OneCycleLR(optimizer, _RATE, total_steps=steps)
    for epoch in range(_EPOCHS):
        network.train()
        order = torch.randperm(count)
        for place in range(count // _BATCH):
            some = order[place * _BATCH : (place + 1) * _BATCH]
            loss = loss_of(network(described[some]), wanted[some], kinds[some])
            optimizer.zero_grad(set_to_none=True)
            loss.backward()
            optimizer.step()
            schedule.step()
        if epoch % 10 == 9:
            _report(network, described[kept:], wanted[kept:], kinds[kept:], epoch)
    return network


@torch.no_grad()
def misses(network: Reader, described: Tensor, wanted: Tensor) -> dict[str, float]:
    """Root mean square miss of each quantity on the twentieth that was kept back."""
    kept = len(described) - kept_back(described)
    network.eval()
    off = network(described[kept:])[:, : len(QUANTITIES)] - wanted[kept:]
    return dict(zip(QUANTITIES, off.square().mean(dim=0).sqrt().tolist(), strict=True))


@torch.no_grad()
def _report(network: Reader, described: Tensor, wanted: Tensor, kinds: Tensor, epoch: int) -> None:
    network.eval()
    made = network(described)
    count = len(QUANTITIES)
    misses = (made[:, :count] - wanted).abs().mean(dim=0)
    known = kinds >= 0
    right = (made[known, 2 * count :].argmax(dim=1) == kinds[known]).float().mean()
    words = ", ".join(f"{n} {v:.3f}" for n, v in zip(QUANTITIES, misses, strict=True))
    print(f"reader: epoch {epoch + 1}; mean miss of {words}; media right {right:.3f}", flush=True)


def _checkpoint(work: Path) -> Path:
    return work / "checkpoints" / f"{NAME}.pt"


def _save(work: Path, network: Reader, count: int) -> None:
    path = _checkpoint(work)
    path.parent.mkdir(parents=True, exist_ok=True)
    partial = path.with_suffix(".partial")
    torch.save({"network": network.state_dict(), "count": count}, partial)
    os.replace(partial, path)


def export_reader(work: Path, out_dir: Path) -> None:
    """Write the checkpoint as ``reader.onnx``."""
    state = torch.load(_checkpoint(work), weights_only=True)
    network = Reader(state["network"]["mean"], state["network"]["spread"])
    network.load_state_dict(state["network"])
    network.eval()
    path = out_dir / f"{NAME}.onnx"
    torch.onnx.export(
        network,
        (torch.rand(2, len(state["network"]["mean"])),),
        str(path),
        dynamo=False,
        opset_version=17,
        input_names=["traits"],
        output_names=["result"],
        dynamic_axes={"traits": {0: "count"}, "result": {0: "count"}},
    )
    model = onnx.load(path)
    onnx.helper.set_model_props(model, {"pictures": str(state["count"])})
    onnx.save(model, path)
    print(f"{path.name}: learned from {state['count']} pictures, {path.stat().st_size / 1e6:.2f} MB")
