"""Runs a learned network on exact tiles."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from functools import partial

import numpy as np
from numpy.typing import NDArray

from wamplex.core.base.lazy_imports import cv2
from wamplex.core.base.parallel_rows import run_parallel_rows
from wamplex.core.base.progress import Progress
from wamplex.core.base.window import Window
from wamplex.core.model.picture import Pixels
from wamplex.core.model.protected_places import ProtectedPlaces, remaining_weight
from wamplex.core.upscale.networks.inference import run_network
from wamplex.core.upscale.networks.manifest import NetworkFile
from wamplex.core.upscale.networks.position_noise import fold_into_planes, position_noise
from wamplex.core.upscale.networks.texture_weight import REACH_PX, texture_weight
from wamplex.core.upscale.stages.stage import ChannelLayout, FollowingStage, Stage
from wamplex.core.upscale.stages.tiling import tile_shape


class NetworkStage(FollowingStage):
    """Enlarges ``factor`` times with a convolutional network.

    The network pads with zeros at every layer, so a tile that lies at the border of the picture must
    end there, and any other tile needs ``halo`` more pixels, which are cut off the result. Then tiles
    agree with the whole to rounding. A network that works on cells is given whole ones: its tiles begin
    and end where cells of the picture do, and a picture that ends within one has its last pixels repeated.

    Parameters
    ----------
    guide : the source as it is, which enters as three more channels; None for networks that see one picture
    planes : constants that enter as further input channels, each in -1..1; alpha is run with zeros
    noise_gain : of grain that enters as further input channels; 0 for networks that take none
    protected : places that no grain enters at
    self_ensemble : average the results of the eight flips and quarter turns (self-ensemble, Timofte et al. 2016)
    tile_px : most source pixels of a tile, its halo included; None for what the network's file says
    """

    def __init__(
        self,
        before: Stage,
        network: NetworkFile,
        *,
        guide: Stage | None = None,
        planes: tuple[float, ...] = (),
        noise_gain: float = 0.0,
        protected: tuple[ProtectedPlaces, ...] = (),
        self_ensemble: bool = False,
        tile_px: int | None = None,
    ) -> None:
        self.width = before.width * network.factor
        self.height = before.height * network.factor
        self._before = before
        self._network = network
        self._factor = network.factor
        self._neighbours = guide
        self._planes = planes
        self._loudness = noise_gain
        self._protected = protected
        self._self_ensemble = self_ensemble
        self._tile_px = network.tile_px if tile_px is None else tile_px

    def render(self, window: Window, progress: Progress) -> Pixels:
        """Pixels of the window, not clipped."""
        f = self._factor
        x, y = window.x // f, window.y // f
        covered = Window(x, y, -(-window.right // f) - x, -(-window.bottom // f) - y)
        out: Pixels | None = None
        tile_width, tile_height = tile_shape(covered.width, covered.height, self._network.halo, self._tile_px)
        for tile in covered.tiles(tile_width, tile_height):
            pixels = self._render_tile(tile, progress)
            target = Window(tile.x * f, tile.y * f, tile.width * f, tile.height * f)
            shared = Window(target.x - window.x, target.y - window.y, target.width, target.height)
            inner = shared.clipped(window.width, window.height)
            if out is None:
                out = np.empty((window.height, window.width, pixels.shape[2]), np.float32)
            part = pixels[inner.y - shared.y : inner.bottom - shared.y, inner.x - shared.x : inner.right - shared.x]
            _bring_together(part, out[inner.y : inner.bottom, inner.x : inner.right])
        assert out is not None
        return out

    def _render_tile(self, tile: Window, progress: Progress) -> Pixels:
        f = self._factor
        padded = tile.grown(self._network.halo, self._before.width, self._before.height).snapped(self._network.cells)
        inside = padded.clipped(self._before.width, self._before.height)
        beyond = ((0, padded.height - inside.height), (0, padded.width - inside.width), (0, 0))
        inputs = [before.render(inside, progress) for before in (self._before, self._neighbours) if before]
        if inside != padded:
            inputs = [np.pad(pixels, beyond, mode="edge") for pixels in inputs]
        left, top = (tile.x - padded.x) * f, (tile.y - padded.y) * f
        runs = self._as_colour(inputs, self._grain(padded, progress))
        parts = [self._run(tensor, loud, progress) for tensor, loud in runs]
        cut = [p[top : top + tile.height * f, left : left + tile.width * f] for p in parts]
        return _from_colour(cut, self.layout)

    def _grain(self, padded: Window, progress: Progress) -> Pixels:
        """Planes of grain (f², height, width), as strong as there is texture; or none (0, height, width)."""
        f = self._factor
        if self._loudness == 0:
            return np.empty((0, padded.height, padded.width), np.float32)
        # Grain belongs to the place in the picture, however it is cropped.
        left, top = (round(n * self.scale) for n in self.origin)
        enlarged = Window(padded.x * f + left, padded.y * f + top, padded.width * f, padded.height * f)
        return (
            np.float32(self._loudness) * fold_into_planes(position_noise(enlarged), f) * self._texture(padded, progress)
        )

    def _texture(self, padded: Window, progress: Progress) -> NDArray[np.float32]:
        """How much texture may be added at each pixel of a tile."""
        around = padded.grown(REACH_PX, self._before.width, self._before.height)
        weight = texture_weight(self._before.render(around, progress)[..., :3])
        rows = slice(padded.y - around.y, padded.bottom - around.y)
        columns = slice(padded.x - around.x, padded.right - around.x)
        return weight[rows, columns] * remaining_weight(
            self._protected, self._before.width, self._before.height, padded
        )

    def _as_colour(self, inputs: list[Pixels], loud: Pixels) -> list[tuple[Pixels, Pixels]]:
        """The runs that a picture takes: input (C, H, W) and grain of each."""
        has_alpha = self.layout.endswith("+a")
        colours = [_threefold(pixels[..., :-1] if has_alpha else pixels) for pixels in inputs]
        runs = [(_input(colours, self._planes), loud)]
        if has_alpha:  # neither cleaned nor given texture
            alphas = [_threefold(pixels[..., -1:]) for pixels in inputs]
            runs.append((_input(alphas, (0.0,) * len(self._planes)), np.zeros_like(loud)))
        return runs

    def _run(self, tensor: Pixels, loud: Pixels, progress: Progress) -> Pixels:
        if not self._self_ensemble:
            return run_network(self._network, _together(tensor, loud), progress).transpose(1, 2, 0)
        height, width = tensor.shape[1:]
        mean = np.zeros((3, height * self._factor, width * self._factor), np.float32)
        # The mean of eight textures would be a fainter one. What is added is proportional to the grain,
        # so one run, the unturned, has the eightfold of it and the others none.
        for number, (turned, turn_back) in enumerate(_turns(tensor)):
            added = 8 * loud if number == 0 else np.zeros((len(loud), *turned.shape[1:]), np.float32)
            mean += turn_back(run_network(self._network, _together(turned, added), progress)) / np.float32(8)
        return mean.transpose(1, 2, 0)


def _threefold(pixels: Pixels) -> Pixels:
    """Three channels of a picture of one or three."""
    return pixels if pixels.shape[2] == 3 else np.repeat(pixels, 3, axis=2)


def _input(pictures: list[Pixels], planes: tuple[float, ...]) -> Pixels:
    """Channels first: the pictures, then constant planes."""
    # Networks know pictures within 0..1; an earlier pass may overshoot.
    parts = [np.clip(pixels.transpose(2, 0, 1), 0.0, 1.0, order="C") for pixels in pictures]
    parts += [np.full((1, *parts[0].shape[1:]), plane, np.float32) for plane in planes]
    return parts[0] if len(parts) == 1 else np.concatenate(parts)


def _together(tensor: Pixels, loud: Pixels) -> Pixels:
    """All input channels; copied only where there is grain to add."""
    return np.concatenate([tensor, loud]) if len(loud) else tensor


def _bring_together(part: Pixels, out: Pixels) -> None:
    """Copy; the network gives planes, and OpenCV interleaves them twice as fast as NumPy."""

    def rows(some: slice) -> None:
        cv2.merge([part[some, :, channel] for channel in range(part.shape[2])], dst=out[some])

    run_parallel_rows(len(part), part[:1].nbytes, rows)


def _from_colour(parts: list[Pixels], layout: ChannelLayout) -> Pixels:
    colour = parts[0].mean(axis=2, keepdims=True) if layout.startswith("grey") else parts[0]
    if not layout.endswith("+a"):
        return colour
    return np.concatenate([colour, parts[1].mean(axis=2, keepdims=True)], axis=2)


Turn = Callable[[NDArray[np.float32]], NDArray[np.float32]]


def _turns(tensor: Pixels) -> Iterator[tuple[Pixels, Turn]]:
    """The eight flips and quarter turns of (C, H, W), each with what undoes it."""
    for turns in range(4):
        turned = np.rot90(tensor, turns, axes=(1, 2))
        yield np.ascontiguousarray(turned), partial(np.rot90, k=-turns, axes=(1, 2))
        yield np.ascontiguousarray(turned[:, :, ::-1]), partial(_unflipped, turns=turns)


def _unflipped(result: Pixels, turns: int) -> Pixels:
    return np.rot90(result[:, :, ::-1], -turns, axes=(1, 2))
