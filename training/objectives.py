"""What training makes smaller: plain differences for the faithful networks, texture as well for Thicket."""

from __future__ import annotations

import math
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
        """``WEIGHT`` times 10 log10 of the mean squared difference of each patch, of its luma and its hue.

        Hue is what the channels differ from the luma; it is counted by itself, since it is mostly small.
        """
        difference = result - truth
        luma = functional.conv2d(difference, difference.new_tensor(_LUMA).reshape(1, 3, 1, 1))
        parts = (difference, luma, difference - luma)
        total: Tensor = sum(self._decibels(part.square().mean(dim=1), factor) for part in parts)
        return self.WEIGHT * total

    def _decibels(self, squared: Tensor, factor: int) -> Tensor:
        return (10 * torch.log10(squared.flatten(1).mean(dim=1) + self.LEAST)).mean()


class ExactEverywhere(Exact):
    """As `Exact`, and as much by the decibels of each small place, with more of a pull where much is missed.

    In a patch with lettering the strokes make nearly all of the difference, and what noise leaves on the
    paper between them is next to nothing, until it is judged by itself. And a decibel pulls the less the
    further off a place is, as its inverse: among places that are clean to a level or so, noise would hardly
    be learned. Beyond ``FAR`` the pull stays what it is there.
    """

    PLACE_PX = 8
    FAR = 0.01  # root mean square, 2.5 of 255 levels

    def _decibels(self, squared: Tensor, factor: int) -> Tensor:
        places = functional.avg_pool2d(squared, self.PLACE_PX * factor)
        return 0.5 * (self._pulling(squared.flatten(1).mean(dim=1)) + self._pulling(places))

    def _pulling(self, squared: Tensor) -> Tensor:
        root = (squared + self.LEAST).sqrt()
        return (20 / math.log(10) * (root.log() + root / self.FAR)).mean()


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
    """Texture that passes for real, of whatever has been added to a picture.

    The sum of: the difference of local energies of oriented bands of fine detail, as logarithms, so that
    faint texture counts as much as strong; the squared difference from the truth, above all along edges that
    the source shows; and the verdict of a judge trained alongside, relative to real pictures
    (Jolicoeur-Martineau 2018). What is made by chance knows nothing of the truth, so the squared difference
    costs what is added: little where texture is faint, and much where an edge would become ragged. It is
    taken of the steps between neighbours, which costs every band alike; of the pixels themselves, a
    chessboard would be cheapest.
    """

    ENERGY, SQUARED, EDGES, VERDICT = 1.0, 2.5, 120.0, 0.1
    RATE = 4e-4

    def __init__(self) -> None:
        self._judge = Judge().to(memory_format=torch.channels_last)
        self._optimizer = torch.optim.Adam(self._judge.parameters(), lr=self.RATE, betas=(0.5, 0.99))

    def loss(self, result: Tensor, truth: Tensor, factor: int) -> Tensor:
        """The sum above; the judge learns one step on the same batch."""
        # Half of the batch is judged and the other half's energies compared: both are dear.
        half = len(result) // 2
        made, real = _shifted(result[:half], truth[:half])
        self._teach(made.detach(), real)
        for parameter in self._judge.parameters():
            parameter.requires_grad_(False)
        verdict = _relative(self._judge(made), self._judge(real))
        for parameter in self._judge.parameters():
            parameter.requires_grad_(True)
        # What lies outside the patch is not known, so its border is not compared.
        cut = (slice(half, None), ..., slice(2 * factor, -2 * factor), slice(2 * factor, -2 * factor))
        energy = band_energies(result[cut], truth[cut], factor)
        cost = self.SQUARED + self.EDGES * edges(truth, factor)
        steps = (result - truth).diff(dim=2).square() * cost[:, :, 1:]
        steps_across = (result - truth).diff(dim=3).square() * cost[..., 1:]
        squared = 0.5 * (steps.mean() + steps_across.mean())
        return self.ENERGY * energy + squared + self.VERDICT * verdict

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


def edges(truth: Tensor, factor: int, *, half: float = 0.3) -> Tensor:
    """How much of an edge there is for the source to show, 0 to 1: (N, 1, H, W).

    Taken from the range of the luma among 3 x 3 source pixels; a range of ``half`` counts a quarter.
    """
    luma = functional.conv2d(truth, truth.new_tensor(_LUMA).reshape(1, 3, 1, 1))
    source = functional.avg_pool2d(luma, factor)
    highest, lowest = (functional.max_pool2d(sign * source, 3, 1, 1) for sign in (1, -1))
    span = highest + lowest
    return functional.interpolate((span / (span + half)).square(), scale_factor=factor, mode="nearest")


def band_energies(
    result: Tensor, truth: Tensor, factor: int, *, bands: int = 12, cells: int = 2, faint: float = 0.008
) -> Tensor:
    """How far apart the logarithms of local energies of the luma lie, on average over bands and places.

    The bands are waves of 2 to 8 pixels in all directions, drawn anew each time; energies are taken at
    every pixel before the mean over ``cells`` x ``cells`` source pixels, so that a place counts by what
    most of it looks like and not by its one strongest edge. Below ``faint`` it is as good as nothing.
    The energies of oriented bands are what Portilla and Simoncelli (2000) tell textures by.
    """
    luma = functional.conv2d(torch.cat([result, truth]), result.new_tensor(_LUMA).reshape(1, 3, 1, 1))
    answers = functional.conv2d(luma, _waves(bands)).square()
    energy = answers[:, :bands] + answers[:, bands:]
    levels = 0.5 * torch.log(energy + faint * faint)
    made, real = functional.avg_pool2d(levels, cells * factor, stride=factor).chunk(2)
    return (made - real).abs().mean()


def _waves(count: int, size: int = 11) -> Tensor:
    """Pairs of filters a quarter wave apart, first all of one kind: (2 count, 1, size, size) of norm 1."""
    steps = torch.arange(size) - (size - 1) / 2
    y, x = torch.meshgrid(steps, steps, indexing="ij")
    numbers = torch.arange(count)
    wavelength = 2.05 * 2 ** (2 * (numbers + torch.rand(count)) / count)
    angle = torch.rand(1) * math.pi + math.pi * 5 * numbers / count  # lengths and directions not in step
    width = (0.5 * wavelength).clamp(0.9, 2.6)[:, None, None]
    along = x * torch.cos(angle)[:, None, None] + y * torch.sin(angle)[:, None, None]
    phase = 2 * math.pi * along / wavelength[:, None, None]
    bell = torch.exp(-(x * x + y * y) / (2 * width * width))
    waves = torch.cat([torch.cos(phase) * bell, torch.sin(phase) * bell])
    bells = torch.cat([bell, bell])
    level = waves - bells * (waves.sum(dim=(1, 2)) / bells.sum(dim=(1, 2)))[:, None, None]
    return (level / level.flatten(1).norm(dim=1)[:, None, None])[:, None]


def _relative(better: Tensor, worse: Tensor) -> Tensor:
    """Low when ``better`` is judged more real than ``worse`` is on average, and the other way round."""
    return 0.5 * (functional.softplus(worse.mean() - better).mean() + functional.softplus(worse - better.mean()).mean())


def _shifted(result: Tensor, truth: Tensor) -> tuple[Tensor, Tensor]:
    """Both cut by the same few pixels, so that the judge's 4-pixel grid lies anywhere on the network's."""
    down, right = (int(n) for n in torch.randint(0, 4, (2,)))
    side = (result.shape[2] - 4) // 4 * 4
    cut = (..., slice(down, down + side), slice(right, right + side))
    return result[cut], truth[cut]
