"""The network that reads a picture's condition from the pixels themselves, where traits leave too much out.

It learns from `training.glances` for some minutes at a time, and goes on from what there is.
"""

from __future__ import annotations

import os
import time
from pathlib import Path

import numpy as np
import onnx
import torch
from torch import Tensor, nn
from torch.nn import functional

from training.estimator import loss_of
from training.glances import Glances, glances, turned
from wamplex.core.measure.reader import KINDS, QUANTITIES

NAME = "reader-pixels"
_CHANNELS = (32, 64, 64)
_GATHERED = 96
_BATCH, _RATE = 64, 1.5e-3
_CUT_PX = 96
_HELD_BACK = 2000
_REPORT_MINUTES = 6.0
# Of luma and colour differences, ITU-R BT.601.
_PARTS = ((0.299, 0.587, 0.114), (-0.169, -0.331, 0.5), (0.5, -0.419, -0.081))


class Looker(nn.Module):
    """Input (N, 3, H, W) in 0..1 and (N, 1) compression. Output (N, 2 Q + K) as of the reader of traits.

    Pixels become luma, colour differences and the luma's finest structure on a scale where noise of a
    level counts; cells of 2 x 2 of them are what is looked at, so that nothing fine is lost. What is found
    is gathered from all places: its mean, how much it varies, and what it is where it counts most.
    """

    def __init__(self) -> None:
        super().__init__()
        self.register_buffer("parts", torch.tensor(_PARTS)[:, :, None, None])
        fine = torch.tensor([[0.0, -1, 0], [-1, 4, -1], [0, -1, 0]]) / 4
        self.register_buffer("fine", fine[None, None])
        near, middle, far = _CHANNELS
        self.entry = nn.Conv2d(17, near, 3, padding=1)
        self.near = nn.Conv2d(near, near, 3, padding=1)
        self.to_middle = nn.Conv2d(near, middle, 3, stride=2, padding=1)
        self.middle = nn.ModuleList(nn.Conv2d(middle, middle, 3, padding=1) for _ in range(2))
        self.to_far = nn.Conv2d(middle, far, 3, stride=2, padding=1)
        self.far = nn.Conv2d(far, far, 3, padding=1)
        self.counts = nn.ModuleList(nn.Conv2d(n, n // 4, 1) for n in (middle, far))
        found = sum(2 * n + n for n in (middle, far))
        self.first = nn.Linear(found + 1, _GATHERED)
        self.second = nn.Linear(_GATHERED, _GATHERED)
        self.last = nn.Linear(_GATHERED, 2 * len(QUANTITIES) + len(KINDS))

    def forward(self, pixels: Tensor, blocks: Tensor) -> Tensor:
        planes = functional.conv2d(pixels, self.parts)
        fine = functional.conv2d(functional.pad(planes[:, :1], (1, 1, 1, 1), mode="replicate"), self.fine)
        scaled = torch.cat([planes * 2 - planes.new_tensor([1.0, 0, 0])[:, None, None], _spread(fine)], dim=1)
        cells = functional.pixel_unshuffle(scaled, 2)
        told = blocks[:, :, None, None].expand(-1, -1, cells.shape[2], cells.shape[3])
        x = functional.relu(self.entry(torch.cat([cells, told], dim=1)))
        x = functional.relu(self.near(x))
        x = functional.relu(self.to_middle(x))
        for layer in self.middle:
            x = x + functional.relu(layer(x))
        gathered = self._gathered(x, self.counts[0])
        x = functional.relu(self.to_far(x))
        x = x + functional.relu(self.far(x))
        found = torch.cat([gathered, self._gathered(x, self.counts[1]), blocks], dim=1)
        found = functional.relu(self.first(found))
        found = found + functional.relu(self.second(functional.dropout(found, 0.1, self.training)))
        made: Tensor = self.last(found)
        return made

    @staticmethod
    def _gathered(x: Tensor, counts: nn.Module) -> Tensor:
        mean = x.mean(dim=(2, 3))
        varies = ((x - mean[:, :, None, None]) ** 2).mean(dim=(2, 3)).add(1e-5).sqrt()
        # Each quarter of the channels is weighed by how much it counts at a place.
        weights = torch.softmax(counts(x).flatten(2), dim=2).repeat_interleave(4, dim=1)
        return torch.cat([mean, varies, (x.flatten(2) * weights).sum(dim=2)], dim=1)


def _spread(fine: Tensor) -> Tensor:
    """Small differences apart, large ones together: asinh, of which a level is about a fifth."""
    return torch.asinh(fine * 64) / 2


def train_looker(work: Path, minutes: float, seed: int, rate: float = _RATE) -> None:
    """Learn for some minutes along one cosine, going on from the checkpoint where there is one."""
    torch.manual_seed(seed)
    random = np.random.default_rng(seed)
    pieces = glances(work)
    count = len(pieces.blocks) - _HELD_BACK
    network, steps, spent = _begun(work)
    network.to(memory_format=torch.channels_last)
    optimizer = torch.optim.AdamW(network.parameters(), lr=rate, weight_decay=1e-3)
    begin = reported = time.monotonic()
    print(f"{NAME}: {count} pieces, {sum(p.numel() for p in network.parameters())} weights", flush=True)
    while (done := (time.monotonic() - begin) / (60 * minutes)) < 1:
        warm = min(1.0, (steps + 1) / 200)
        for group in optimizer.param_groups:
            group["lr"] = rate * warm * (0.5 + 0.5 * float(np.cos(np.pi * done)))
        some = random.integers(0, count, _BATCH)
        loss = loss_of(_made(network, pieces, some, random), *_truth(pieces, some))
        optimizer.zero_grad(set_to_none=True)
        loss.backward()
        nn.utils.clip_grad_norm_(network.parameters(), 1.0)
        optimizer.step()
        steps += 1
        if time.monotonic() - reported > 60 * _REPORT_MINUTES:
            reported = time.monotonic()
            _save(work, network, steps, spent + (reported - begin) / 60)
            _report(network, pieces, count, steps)
    _save(work, network, steps, spent + minutes)
    _report(network, pieces, count, steps)


def _made(network: Looker, pieces: Glances, some: np.ndarray, random: np.random.Generator) -> Tensor:
    room = (pieces.pixels.shape[1] - _CUT_PX) // 8
    # On the grid of eight as a rule: what was cropped came as such already.
    y, x = 8 * random.integers(0, room + 1, 2)
    cut = turned(pieces.pixels[some][:, y : y + _CUT_PX, x : x + _CUT_PX], random)
    return network(*_tensors(cut, pieces.blocks[some]))  # type: ignore[no-any-return]


def _tensors(pixels: np.ndarray, blocks: np.ndarray) -> tuple[Tensor, Tensor]:
    planes = torch.from_numpy(np.ascontiguousarray(pixels)).permute(0, 3, 1, 2).float() / 255
    return planes.contiguous(memory_format=torch.channels_last), torch.from_numpy(blocks)[:, None]


def _truth(pieces: Glances, some: np.ndarray) -> tuple[Tensor, Tensor]:
    return torch.from_numpy(pieces.wanted[some]), torch.from_numpy(pieces.kinds[some])


@torch.no_grad()
def _report(network: Looker, pieces: Glances, start: int, steps: int) -> None:
    network.eval()
    places = np.arange(start, len(pieces.blocks))
    parts = [network(*_tensors(pieces.pixels[p], pieces.blocks[p])) for p in np.array_split(places, 20)]
    network.train()
    made, (wanted, kinds) = torch.cat(parts), _truth(pieces, places)
    misses = made[:, : len(QUANTITIES)] - wanted
    known = kinds >= 0
    right = (made[known, 2 * len(QUANTITIES) :].argmax(dim=1) == kinds[known]).float().mean()
    words = ", ".join(
        f"{n} {m.abs().mean():.3f} (rms {m.square().mean().sqrt():.3f})"
        for n, m in zip(QUANTITIES, misses.T, strict=True)
    )
    print(f"{NAME}: step {steps}; mean miss of {words}; media right {right:.3f}", flush=True)


def _checkpoint(work: Path) -> Path:
    return work / "checkpoints" / f"{NAME}.pt"


def _begun(work: Path) -> tuple[Looker, int, float]:
    network = Looker()
    if not _checkpoint(work).exists():
        return network, 0, 0.0
    state = torch.load(_checkpoint(work), weights_only=True)
    network.load_state_dict(state["network"])
    return network, int(state["steps"]), float(state["minutes"])


def _save(work: Path, network: Looker, steps: int, minutes: float) -> None:
    path = _checkpoint(work)
    path.parent.mkdir(parents=True, exist_ok=True)
    partial = path.with_suffix(".partial")
    torch.save({"network": network.state_dict(), "steps": steps, "minutes": minutes}, partial)
    os.replace(partial, path)


def export_looker(work: Path, out_dir: Path) -> None:
    """Write the checkpoint as ``reader-pixels.onnx``."""
    network, steps, minutes = _begun(work)
    network.eval()
    path = out_dir / f"{NAME}.onnx"
    torch.onnx.export(
        network,
        (torch.rand(2, 3, 128, 160), torch.rand(2, 1)),
        str(path),
        dynamo=False,
        opset_version=17,
        input_names=["pixels", "blocks"],
        output_names=["result"],
        dynamic_axes={
            "pixels": {0: "count", 2: "height", 3: "width"},
            "blocks": {0: "count"},
            "result": {0: "count"},
        },
    )
    model = onnx.load(path)
    onnx.helper.set_model_props(model, {"steps": str(steps), "minutes": f"{minutes:.1f}"})
    onnx.save(model, path)
    print(f"{path.name}: {steps} steps, {minutes:.0f} minutes, {path.stat().st_size / 1e6:.2f} MB")
