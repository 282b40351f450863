"""What training makes smaller: plain differences for the faithful networks, texture as well for Thicket."""

from __future__ import annotations

from itertools import pairwise
from typing import Any, Protocol

import torch
from torch import Tensor, nn
from torch.nn import functional

_LUMA = (0.299, 0.587, 0.114)


class Objective(Protocol):
    """Judges a batch of results."""

    def loss(self, result: Tensor, truth: Tensor, factor: int) -> Tensor:
        """A number to make smaller, for (N, 3, H, W) in 0..1."""

    def state(self) -> dict[str, Any]:
        """What a checkpoint must keep."""

    def load(self, state: dict[str, Any]) -> None:
        """Go on from a checkpoint."""


class Faithful:
    """Mean absolute difference, of the colours and once more of their luma."""

    def loss(self, result: Tensor, truth: Tensor, factor: int) -> Tensor:
        """L1 of R'G'B' plus L1 of the luma."""
        difference = result - truth
        luma = functional.conv2d(difference, difference.new_tensor(_LUMA).reshape(1, 3, 1, 1))
        return difference.abs().mean() + luma.abs().mean()

    def state(self) -> dict[str, Any]:
        """Nothing to keep."""
        return {}

    def load(self, state: dict[str, Any]) -> None:
        """Nothing to go on from."""


class Exact(Faithful):
    """Mean of the patches' decibels, so that flat and clean places count as much as busy ones.

    A plain mean is ruled by the patches that cannot be told well; drawings are mostly patches that can.
    """

    WEIGHT, LEAST = 0.01, 1e-5  # no reward beyond 50 dB

    def loss(self, result: Tensor, truth: Tensor, factor: int) -> Tensor:
        """``WEIGHT`` times 10 log10 of the mean squared difference of each patch and of its luma."""
        difference = result - truth
        luma = functional.conv2d(difference, difference.new_tensor(_LUMA).reshape(1, 3, 1, 1))
        levels = [part.square().flatten(1).mean(dim=1) + self.LEAST for part in (difference, luma)]
        total: Tensor = sum((10 * torch.log10(level)).mean() for level in levels)  # type: ignore[assignment]
        return self.WEIGHT * total


class Judge(nn.Module):
    """Tells real texture from made, one verdict for every 4 x 4 pixels and what surrounds them.

    Pixels are first gathered 4 x 4 into channels (cheap on a CPU), so single wrong pixels are seen.
    """

    def __init__(self, channels: int = 64) -> None:
        super().__init__()
        sizes = (48, channels, channels, channels)
        self.layers = nn.ModuleList(
            nn.utils.parametrizations.spectral_norm(nn.Conv2d(a, b, 3, padding=1)) for a, b in pairwise(sizes)
        )
        self.verdict = nn.Conv2d(channels, 1, 3, padding=1)

    def forward(self, pictures: Tensor) -> Tensor:
        x = functional.pixel_unshuffle(pictures * 4 - 2, 4)
        for layer in self.layers:
            x = functional.leaky_relu(layer(x), 0.2)
        return self.verdict(x)


class Inventing:
    """Texture that passes for real, while the coarse picture stays what it was.

    The sum of: L1 of the picture shrunk back (it must stay the same picture), a little L1 of the whole, the
    difference of local energies of fine detail (texture belongs where texture is, and no dots along edges),
    sliced Wasserstein distance of small and larger patches (Heitz et al. 2021), the verdict of a judge
    trained alongside, relative to real pictures (Jolicoeur-Martineau 2018), and any pattern that repeats
    with the grid of the pixel shuffle.
    """

    SHRUNK, WHOLE, ENERGY, WASSERSTEIN, VERDICT, GRID = 1.0, 0.35, 1.0, 0.15, 0.008, 4.0
    PATCHES_PX = (3, 7)  # the small ones see single pixels that stand out
    RATE = 2e-4

    def __init__(self) -> None:
        self._judge = Judge().to(memory_format=torch.channels_last)
        self._optimizer = torch.optim.Adam(self._judge.parameters(), lr=self.RATE, betas=(0.5, 0.99))

    def loss(self, result: Tensor, truth: Tensor, factor: int) -> Tensor:
        """The sum above; the judge learns one step on the same batch."""
        # Half of the batch is judged and the other half's patches compared: both are dear.
        half = len(result) // 2
        made, real = _shifted(result[:half], truth[:half])
        self._teach(made.detach(), real)
        for parameter in self._judge.parameters():
            parameter.requires_grad_(False)
        verdict_made, verdict_real = self._judge(made), self._judge(real)
        verdict = _relative(verdict_made, verdict_real)
        for parameter in self._judge.parameters():
            parameter.requires_grad_(True)
        shrunk = functional.avg_pool2d(result - truth, factor).abs().mean()
        whole = (result - truth).abs().mean()
        texture = sum(sliced_wasserstein(result[half:], truth[half:], size=size) for size in self.PATCHES_PX)
        energy = local_energy(result[half:], truth[half:], factor)
        grid = grid_pattern(result, truth, factor)
        faithful = self.SHRUNK * shrunk + self.WHOLE * whole + self.GRID * grid
        invented = self.ENERGY * energy + self.WASSERSTEIN * texture + self.VERDICT * verdict
        total: Tensor = faithful + invented
        return total

    def _teach(self, made: Tensor, real: Tensor) -> None:
        loss = _relative(self._judge(real), self._judge(made))
        self._optimizer.zero_grad(set_to_none=True)
        loss.backward()
        self._optimizer.step()

    def state(self) -> dict[str, Any]:
        """The judge and its optimizer."""
        return {"judge": self._judge.state_dict(), "judge_optimizer": self._optimizer.state_dict()}

    def load(self, state: dict[str, Any]) -> None:
        """Go on with a trained judge."""
        self._judge.load_state_dict(state["judge"])
        self._optimizer.load_state_dict(state["judge_optimizer"])


def sliced_wasserstein(
    result: Tensor, truth: Tensor, *, size: int, slices: int = 24, samples: int = 1024
) -> Tensor:
    """Distance between the patches of two pictures regardless of where in the picture they lie.

    Patches of ``size`` are projected on random directions without a constant part; the sorted
    projections of ``samples`` places are compared.
    """
    both = functional.conv2d(torch.cat([result, truth]), _directions(slices, size)).flatten(2)
    places = torch.randperm(both.shape[2])[:samples]
    ordered = both[:, :, places].sort(dim=2).values
    made, real = ordered.chunk(2)
    return (made - real).abs().mean()


def local_energy(
    result: Tensor, truth: Tensor, factor: int, *, size: int = 3, filters: int = 16, cells: int = 2
) -> Tensor:
    """How much the strength of fine detail differs, on average over places of 2 x 2 source pixels.

    Strength is the mean magnitude of what random filters without a constant part respond, as in texture
    models built on band-pass energies (Portilla and Simoncelli 2000).
    """
    answers = functional.conv2d(torch.cat([result, truth]), _directions(filters, size)).abs()
    made, real = functional.avg_pool2d(answers, cells * factor, stride=factor).chunk(2)
    return (made - real).abs().mean()


def _directions(count: int, size: int) -> Tensor:
    """Random filters (count, 3, size, size) of norm 1 without a constant part."""
    directions = torch.randn(count, 3, size, size)
    directions = directions - directions.mean(dim=(1, 2, 3), keepdim=True)
    return directions / directions.flatten(1).norm(dim=1)[:, None, None, None]


def grid_pattern(result: Tensor, truth: Tensor, factor: int, *, cells: int = 8) -> Tensor:
    """How far places of the shuffle's grid differ from each other, on average over 8 x 8 source pixels.

    Texture that merely lies elsewhere than in the truth averages out; dots on the grid do not.
    """
    by_place = functional.pixel_unshuffle(result - truth, factor)
    mean = functional.avg_pool2d(by_place, cells)
    count, _, height, width = mean.shape
    mean = mean.reshape(count, 3, factor * factor, height, width)
    return (mean - mean.mean(dim=2, keepdim=True)).abs().mean()


def _relative(better: Tensor, worse: Tensor) -> Tensor:
    """Low when ``better`` is judged more real than ``worse`` is on average, and the other way round."""
    return 0.5 * (
        functional.softplus(worse.mean() - better).mean() + functional.softplus(worse - better.mean()).mean()
    )


def _shifted(result: Tensor, truth: Tensor) -> tuple[Tensor, Tensor]:
    """Both cut by the same few pixels, so that the judge's 4-pixel grid lies anywhere on the network's."""
    down, right = (int(n) for n in torch.randint(0, 4, (2,)))
    side = (result.shape[2] - 4) // 4 * 4
    cut = (..., slice(down, down + side), slice(right, right + side))
    return result[cut], truth[cut]
