"""What a network makes of flat colour, where whatever differs from the colour itself is ripple.

What comes of flat colour repeats from cell to cell, so convolutions that go round from one border to the
other need no more than a tile of a few pixels, and no border is ever seen.
"""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager

import torch
from torch import Tensor, nn

from training.families import TOLD_INPUTS, Family
from training.network import Enlarger

LEVELS = 255
_COLOURS = 32
# As weighty as a patch or two of a batch; no reward beyond 80 dB, 0.03 levels.
_WEIGHT, _LEAST = 0.002, 1e-8


def flat_answers(network: Enlarger, family: Family, colours: Tensor, factor: int) -> Tensor:
    """The network's result in the midst of flat colours, (N, 3, s f, s f), of (N, 3) in 0..1.

    A network that is told of damage is told of noise and compression by chance, and that it is sharp.
    """
    side = max(family.cells, 2)  # what goes round two pixels far needs two
    with _going_round(network):
        result: Tensor = network(_flat(family, colours, side), factor)
    return result


def unevenness(network: Enlarger, family: Family, factor: int) -> Tensor:
    """A number to make smaller: the mean decibels by which colours by chance are missed.

    Patches reward nothing beyond 50 dB, since most cannot come near it; what is left then in flat colour
    shows in skies and on paper once it is sharpened.
    """
    colours = torch.rand(_COLOURS, 3)
    missed = flat_answers(network, family, colours, factor) - colours[:, :, None, None]
    return _WEIGHT * (10 * torch.log10(missed.square().flatten(1).mean(dim=1) + _LEAST)).mean()


def ripple(network: Enlarger, family: Family, factor: int, *, colours: int = 60, seed: int = 1) -> float:
    """Root mean square difference from so many colours by chance, in 8-bit levels."""
    torch.manual_seed(seed)
    chosen = torch.rand(colours, 3)
    with torch.no_grad():
        made = flat_answers(network, family, chosen, factor)
    return LEVELS * float((made - chosen[:, :, None, None]).square().mean().sqrt())


def _flat(family: Family, colours: Tensor, side: int) -> Tensor:
    planes = [colours]
    if family.inputs == TOLD_INPUTS:
        told = torch.zeros(len(colours), TOLD_INPUTS - 6)
        told[:, :2] = torch.rand(len(colours), 2).square()  # mostly little
        planes += [colours, told]
    return torch.cat(planes, dim=1)[:, :, None, None].expand(-1, -1, side, side)


@contextmanager
def _going_round(network: nn.Module) -> Iterator[None]:
    layers = [layer for layer in network.modules() if isinstance(layer, nn.Conv2d)]
    for layer in layers:
        layer.padding_mode = "circular"
    try:
        yield
    finally:
        for layer in layers:
            layer.padding_mode = "zeros"
