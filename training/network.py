"""The network shape shared by the learned upscalers: a residual trunk and one sub-pixel head per factor."""

from __future__ import annotations

import torch
from torch import Tensor, nn
from torch.nn import functional

from training.families import Family
from training.texture import Texture

DARKEST = 0.1  # black has texture as if it were this bright


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


class Coarse(nn.Module):
    """Blocks that work on cells of 2 x 2 pixels (as FFDNet, Zhang et al. 2018); H and W must be even.

    At half the size with twice the channels, a convolution costs the same and reaches twice as far. Amid
    them may be some that work on cells of cells.
    """

    def __init__(self, channels: int, wider: int, blocks: int, amid: Coarse | None = None) -> None:
        super().__init__()
        self.down = nn.Conv2d(channels, wider, 2, stride=2)
        self.blocks = nn.Sequential(*(ResidualBlock(wider) for _ in range(blocks)))
        self.amid = nn.ModuleList([amid] if amid else [])
        self.up = nn.Conv2d(wider, 4 * channels, 1)
        with torch.no_grad():
            self.up.weight.mul_(0.1)  # next to without effect at first, like the blocks

    def forward(self, x: Tensor) -> Tensor:
        x = self.down(x)
        half = (len(self.blocks) + 1) // 2
        before, after = self.blocks[:half], self.blocks[half:]
        x = before(x)
        for coarser in self.amid:
            x = x + coarser(x)
        return functional.pixel_shuffle(self.up(after(x)), 2)


class Enlarger(nn.Module):
    """Works at source resolution and shuffles up at the end (Shi et al. 2016).

    Input (N, inputs, H, W) float32 in 0..1, colour first, output (N, 3, fH, fW). The head's output is
    added to the nearest-neighbour enlargement, so an untrained network already returns the picture.
    A grained family takes f² more planes of grain and makes texture of them.
    """

    def __init__(self, family: Family) -> None:
        super().__init__()
        width = family.channels
        self.entry = nn.Conv2d(family.inputs, width, 3, padding=1)
        near = [ResidualBlock(width) for _ in range(family.blocks)]
        wide = [ResidualBlock(width, apart=2) for _ in range(family.wide_blocks)]
        self.blocks = nn.Sequential(*near, *wide)
        wider = family.coarse_channels or 2 * width
        coarsest = Coarse(wider, 3 * width, family.coarsest_blocks) if family.coarsest_blocks else None
        coarse = Coarse(width, wider, family.coarse_blocks, coarsest) if family.coarse_blocks else None
        self.coarse = nn.ModuleList([coarse] if coarse else [])
        self.late = nn.Sequential(*(ResidualBlock(width) for _ in range(family.late_blocks)))
        self._near = family.blocks
        self._cell = 2 if family.mosaic else 1
        shuffled = {f: (f * self._cell) ** 2 for f in family.factors}
        self.heads = nn.ModuleDict({str(f): nn.Conv2d(width, 3 * many, 3, padding=1) for f, many in shuffled.items()})
        for head in self.heads.values():
            with torch.no_grad():
                head.weight.mul_(0.1)
                head.bias.zero_()
        self.texture = nn.ModuleDict({str(f): Texture(f, width) for f in family.factors} if family.grained else {})

    def forward(self, x: Tensor, factor: int) -> Tensor:
        x, grain = x[:, : self.entry.in_channels], x[:, self.entry.in_channels :]
        features = self.entry(x)
        near = self.blocks[: self._near](features)
        features = features + self.blocks[self._near :](near)
        for coarse in self.coarse:
            features = features + coarse(near)
        features = self.late(features)
        detail = functional.pixel_shuffle(self.heads[str(factor)](features), factor * self._cell)
        base = functional.interpolate(self._colour(x), scale_factor=factor * self._cell, mode="nearest")
        enlarged = base + detail
        if not self.texture:
            return enlarged
        strength = functional.pixel_shuffle(self.texture[str(factor)](features, grain), factor)
        # Texture is mostly light and shade: it keeps the hue, and is fainter where it is dark.
        return enlarged + strength * (enlarged.clamp(0, 1) + DARKEST)

    def _colour(self, x: Tensor) -> Tensor:
        """Red, green and blue of every pixel, or of every cell of a mosaic."""
        if self._cell == 1:
            return x[:, :3]
        return torch.cat([x[:, :1], x[:, 1:3].mean(dim=1, keepdim=True), x[:, 3:4]], dim=1)
