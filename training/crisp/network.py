"""Kestrel's network: a trunk that sees the source once, and a small network for each step of the flow."""

from __future__ import annotations

import torch
from torch import Tensor, nn
from torch.nn import functional

from training.network import ResidualBlock

CHANNELS = 48
TRUNK_BLOCKS = 8
STEP_BLOCKS = 3
WINDOW_PX = 9
MIN_SCALE = 0.004  # about one level: flat areas get no texture
RESIDUAL_LIMIT = 6.0
_LUMA = (0.299, 0.587, 0.114)  # ITU-R BT.601


class CrispNetwork(nn.Module):
    """Predicts the velocity of a rectified flow from noise to the missing detail (Liu et al. 2022).

    The flow starts at the mean that Vellum predicts (Ohayon et al. 2024) and works on the luma alone, in
    units of the local detail, see `detail_scale`.
    """

    def __init__(self, factor: int) -> None:
        super().__init__()
        planes = factor * factor
        self.factor = factor
        self.entry = nn.Conv2d(3, CHANNELS, 3, padding=1)
        self.blocks = nn.Sequential(*(ResidualBlock(CHANNELS) for _ in range(TRUNK_BLOCKS)))
        self.step_entry = nn.Conv2d(CHANNELS + 2 * planes + 1, CHANNELS, 3, padding=1)
        self.step_blocks = nn.Sequential(*(ResidualBlock(CHANNELS) for _ in range(STEP_BLOCKS)))
        self.head = nn.Conv2d(CHANNELS, planes, 3, padding=1)
        with torch.no_grad():
            self.head.weight.mul_(0.1)

    def features(self, source: Tensor) -> Tensor:
        """What the steps need of the source: (N, 3, H, W) in 0..1 to (N, 48, H, W)."""
        entered = self.entry(source)
        return entered + self.blocks(entered)

    def velocity(self, features: Tensor, state: Tensor, detail: Tensor, time: Tensor) -> Tensor:
        """Direction towards the truth.

        Parameters
        ----------
        features : (N, 48, H, W), see `features`
        state : (N, 1, fH, fW), where the flow is, in units of the local detail
        detail : (N, 1, fH, fW), detail of Vellum's result in the same units
        time : (N,), 0 at the noise to 1 at the truth

        Returns
        -------
        (N, 1, fH, fW)
        """
        folded = functional.pixel_unshuffle(torch.cat([state, detail], dim=1), self.factor)
        clock = time[:, None, None, None].expand(-1, 1, *features.shape[2:])
        x = self.step_entry(torch.cat([features, folded, clock], dim=1))
        return functional.pixel_shuffle(self.head(self.step_blocks(x)), self.factor)

    def flow(self, features: Tensor, noise: Tensor, detail: Tensor, steps: int = 4) -> Tensor:
        """The state after Euler steps from the noise: (N, 1, fH, fW)."""
        state = noise
        for step in range(steps):
            time = state.new_full((len(state),), step / steps)
            state = state + self.velocity(features, state, detail, time) / steps
        return state


def luma(pixels: Tensor) -> Tensor:
    """(N, 3, H, W) to (N, 1, H, W), in the same range."""
    weights = pixels.new_tensor(_LUMA)[None, :, None, None]
    return (pixels * weights).sum(dim=1, keepdim=True)


def detail_scale(mean_luma: Tensor) -> tuple[Tensor, Tensor]:
    """Detail of Vellum's result in units of its local strength, and this unit.

    Parameters
    ----------
    mean_luma : (N, 1, H, W) in 0..1

    Returns
    -------
    detail : (N, 1, H, W), within ±6
    scale : (N, 1, H, W), half the local deviation of the detail, plus 0.004
    """
    fine = mean_luma - _box(mean_luma)
    scale = 0.5 * _box(fine * fine).clamp_min(0).sqrt() + MIN_SCALE
    return (fine / scale).clamp(-RESIDUAL_LIMIT, RESIDUAL_LIMIT), scale


def uniform_noise(shape: tuple[int, ...]) -> Tensor:
    """Evenly distributed numbers with mean 0 and deviation 1."""
    return (torch.rand(shape) - 0.5) * 12**0.5


def _box(x: Tensor) -> Tensor:
    half = WINDOW_PX // 2
    padded = functional.pad(x, (half, half, half, half), mode="replicate")
    return functional.avg_pool2d(padded, WINDOW_PX, stride=1)
