"""The network shape shared by the learned upscalers: a residual trunk and one sub-pixel head per factor."""

from __future__ import annotations

import torch
from torch import Tensor, nn
from torch.nn import functional

from training.families import Family


class ResidualBlock(nn.Module):
    """Two 3x3 convolutions around a ReLU, without normalisation (Lim et al. 2017)."""

    def __init__(self, channels: int, apart: int = 1) -> None:
        super().__init__()
        self.first = nn.Conv2d(channels, channels, 3, padding=apart, dilation=apart)
        self.second = nn.Conv2d(channels, channels, 3, padding=apart, dilation=apart)
        with torch.no_grad():
            self.second.weight.mul_(0.1)  # blocks start near identity, which lets the rate start high

    def forward(self, x: Tensor) -> Tensor:
        return x + self.second(functional.relu(self.first(x)))


class Finish(nn.Module):
    """Two 3x3 convolutions on the enlarged picture, added to it; at first they add nothing.

    The shuffle's places are made apart from each other; this sees them side by side and evens them out.
    """

    def __init__(self, channels: int = 16) -> None:
        super().__init__()
        self.first = nn.Conv2d(3, channels, 3, padding=1)
        self.second = nn.Conv2d(channels, 3, 3, padding=1)
        nn.init.zeros_(self.second.weight)
        nn.init.zeros_(self.second.bias)  # type: ignore[arg-type]

    def forward(self, x: Tensor) -> Tensor:
        return x + self.second(functional.relu(self.first(x)))


class Enlarger(nn.Module):
    """Works at source resolution and shuffles up at the end (Shi et al. 2016).

    Input (N, inputs, H, W) float32 in 0..1, colour first, output (N, 3, fH, fW). The head's output is
    added to the nearest-neighbour enlargement, so an untrained network already returns the picture.
    """

    def __init__(self, family: Family) -> None:
        super().__init__()
        width = family.channels
        self.entry = nn.Conv2d(family.inputs, width, 3, padding=1)
        near = [ResidualBlock(width) for _ in range(family.blocks)]
        wide = [ResidualBlock(width, apart=2) for _ in range(family.wide_blocks)]
        self.blocks = nn.Sequential(*near, *wide)
        self.heads = nn.ModuleDict(
            {str(f): nn.Conv2d(width, 3 * f * f, 3, padding=1) for f in family.factors}
        )
        for head in self.heads.values():
            with torch.no_grad():
                head.weight.mul_(0.1)
                head.bias.zero_()
        self.finish = Finish() if family.finish else None

    def forward(self, x: Tensor, factor: int) -> Tensor:
        features = self.entry(x)
        features = features + self.blocks(features)
        detail = functional.pixel_shuffle(self.heads[str(factor)](features), factor)
        base = functional.interpolate(x[:, :3], scale_factor=factor, mode="nearest")
        return base + detail if self.finish is None else self.finish(base + detail)
