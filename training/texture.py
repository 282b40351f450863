"""Thicket's texture: filtered numbers by chance, as strong as the features of the trunk say."""

from __future__ import annotations

import math

import torch
from torch import Tensor, nn
from torch.nn import functional

_TOGETHER = 4  # filters
_SIZE = 9  # pixels of the enlarged picture that a filter spans
_ORIENTATIONS = 8
_WAVELENGTHS_PX = (2.2, 3.2, 4.6, 6.5)


class Texture(nn.Module):
    """Strength of what is added to an enlarged picture, in shares of its brightness.

    Every filter takes one band and direction out of the grain. They are the same at every pixel of the
    enlarged picture, so that no grid can show; what the features choose is how much of each is let through.
    The result is proportional to the grain.

    Parameters
    ----------
    factor : native enlargement
    channels : of the trunk's features
    count : filters
    """

    def __init__(self, factor: int, channels: int, count: int = 16) -> None:
        super().__init__()
        self.first = nn.Conv2d(channels, channels, 3, padding=1)
        self.second = nn.Conv2d(channels, count, 3, padding=1)
        self.filters = nn.Parameter(_bands(count))
        with torch.no_grad():
            self.second.weight.mul_(0.3)
            self.second.bias.fill_(0.01)  # from nothing at all, nothing is learned
        places, reach = _tap_places(factor)
        self.register_buffer("_places", places, persistent=False)
        self._reach = reach

    def forward(self, features: Tensor, grain: Tensor) -> Tensor:
        """Planes of the pixel shuffle (N, f², H, W), for features (N, C, H, W) and grain (N, f², H, W)."""
        strength = self.second(functional.relu(self.first(features)))
        # A few filters at a time: all of them would fill the memory with hundreds of planes.
        parts = [
            functional.conv2d(
                (some[:, :, None] * grain[:, None]).flatten(1, 2), taps.flatten(1, 2), padding=self._reach
            )
            for some, taps in zip(strength.split(_TOGETHER, 1), self._taps().split(_TOGETHER, 1), strict=True)
        ]
        total: Tensor = sum(parts)
        return total

    def _taps(self) -> Tensor:
        """The filters as a convolution of shuffled planes, cheaper than one over the large picture.

        (f² results, filters, f² planes, rows, columns)
        """
        level = self.filters - self.filters.mean(dim=(1, 2), keepdim=True)  # the picture's mean stays
        normed = level / level.flatten(1).norm(dim=1)[:, None, None]
        padded = functional.pad(normed.flatten(1), (0, 1))  # one more, of zeros, for places beyond the filter
        places: Tensor = self._places
        taps = padded[:, places.flatten()].reshape(len(normed), *places.shape)
        return taps.transpose(0, 1)


def _tap_places(factor: int) -> tuple[Tensor, int]:
    """Where in a filter the taps of the convolution of shuffled planes lie.

    Returns
    -------
    (out, in, rows, columns) of places in the flattened filter (``_SIZE ** 2`` where beyond it), and the reach
    """
    middle = _SIZE // 2
    reach = -(-middle // factor)
    steps = torch.arange(-reach, reach + 1) * factor
    within = torch.arange(factor)
    # From pixel `out` of a source pixel to pixel `in` of another, along one axis: (out, in, step).
    offset = steps[None, None, :] + within[None, :, None] - within[:, None, None] + middle
    known = (offset >= 0) & (offset < _SIZE)
    rows, columns = offset[:, None, :, None, :, None], offset[None, :, None, :, None, :]
    inside = known[:, None, :, None, :, None] & known[None, :, None, :, None, :]
    places = torch.where(inside, rows * _SIZE + columns, _SIZE * _SIZE)
    planes, side = factor * factor, 2 * reach + 1
    return places.reshape(planes, planes, side, side), reach


def _bands(count: int) -> Tensor:
    """Filters to begin with: waves under a bell, of several lengths and all directions (Gabor 1946)."""
    middle = _SIZE // 2
    y, x = torch.meshgrid(*[torch.arange(-middle, middle + 1.0)] * 2, indexing="ij")
    filters = []
    for number in range(count):
        angle = math.pi * number / _ORIENTATIONS
        wavelength = _WAVELENGTHS_PX[number // 2 % len(_WAVELENGTHS_PX)]
        along, across = x * math.cos(angle) + y * math.sin(angle), y * math.cos(angle) - x * math.sin(angle)
        bell = torch.exp(-(along**2 + 0.36 * across**2) / (2 * (0.45 * wavelength) ** 2))
        filters.append(torch.cos(2 * math.pi * along / wavelength) * bell)
    return torch.stack(filters)
