"""The network shape shared by the learned upscalers: a residual trunk and one sub-pixel head per factor."""

from __future__ import annotations

from dataclasses import dataclass

import torch
from torch import Tensor, nn
from torch.nn import functional


@dataclass(frozen=True)
class Grade:
    """Size of a network."""

    channels: int
    blocks: int


GRADES = {"standard": Grade(channels=48, blocks=6), "quick": Grade(channels=32, blocks=4)}
FACTORS = (2, 3, 4)


class ResidualBlock(nn.Module):
    """Two 3x3 convolutions around a ReLU, without normalisation (Lim et al. 2017)."""

    def __init__(self, channels: int) -> None:
        super().__init__()
        self.first = nn.Conv2d(channels, channels, 3, padding=1)
        self.second = nn.Conv2d(channels, channels, 3, padding=1)
        with torch.no_grad():
            self.second.weight.mul_(0.1)  # blocks start near identity, which lets the rate start high

    def forward(self, x: Tensor) -> Tensor:
        return x + self.second(functional.relu(self.first(x)))


class Enlarger(nn.Module):
    """Works at source resolution and shuffles up at the end (Shi et al. 2016).

    Input (N, 3, H, W) float32 in 0..1, output (N, 3, fH, fW). The head's output is added to
    the nearest-neighbour enlargement, so an untrained network already returns the picture.
    Each output pixel depends on source pixels at most ``halo`` away.
    """

    def __init__(self, grade: Grade, factors: tuple[int, ...] = FACTORS, inputs: int = 3) -> None:
        super().__init__()
        self.entry = nn.Conv2d(inputs, grade.channels, 3, padding=1)
        self.blocks = nn.Sequential(*[ResidualBlock(grade.channels) for _ in range(grade.blocks)])
        self.heads = nn.ModuleDict(
            {str(f): nn.Conv2d(grade.channels, 3 * f * f, 3, padding=1) for f in factors}
        )
        for head in self.heads.values():
            with torch.no_grad():
                head.weight.mul_(0.1)
                head.bias.zero_()
        self.halo = 2 * grade.blocks + 2

    def forward(self, x: Tensor, factor: int) -> Tensor:
        features = self.entry(x)
        features = features + self.blocks(features)
        detail = functional.pixel_shuffle(self.heads[str(factor)](features), factor)
        base = functional.interpolate(x[:, :3], scale_factor=factor, mode="nearest")
        return base + detail
