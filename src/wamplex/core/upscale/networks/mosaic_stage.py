"""Runs a network that makes a colour picture of a sensor's mosaic, on exact tiles."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from wamplex.core.base.parallel_rows import run_parallel_blocks
from wamplex.core.base.progress import Progress
from wamplex.core.base.window import Window
from wamplex.core.model.picture import Pixels
from wamplex.core.model.raw_file import Mosaic, Triple
from wamplex.core.model.sensor_noise import SensorNoise
from wamplex.core.raw.mosaic_planes import network_input
from wamplex.core.raw.tone_curve import srgb_decode
from wamplex.core.raw.tone_curve import srgb_encode as encoded_as
from wamplex.core.upscale.networks.inference import run_network
from wamplex.core.upscale.networks.manifest import NetworkFile
from wamplex.core.upscale.stages.stage import ChannelLayout, Stage
from wamplex.core.upscale.stages.tiling import tile_shape

NoiseOf = tuple[SensorNoise, SensorNoise, SensorNoise]
# Arrays of a block that are held at a time, so that all stay in the cache.
_TEMPORARIES = 5


class MosaicNetworkStage:
    """Linear camera colours at ``factor`` times the sensor's size, on the sensor's own sides.

    The network is given cells that begin with red, wherever a window begins: a mosaic whose first cell does
    not is continued by up to three pixels to the left and above, mirrored about its first pixel, which keeps
    every colour in its place. The network pads with zeros at every layer, so its picture ends where this
    continued mosaic ends, and tiles inside need ``halo`` more pixels.

    Parameters
    ----------
    gains : white balance that the colours are to have
    exposure : what the mosaic is multiplied by before the network sees it, and the result divided by: noise
        is judged at the brightness that it will be looked at with
    noise : conditioning of the network, for red, green and blue as recorded
    """

    origin, scale = (0.0, 0.0), 1.0
    layout: ChannelLayout = "rgb"

    def __init__(self, mosaic: Mosaic, network: NetworkFile, *, gains: Triple, exposure: float, noise: NoiseOf) -> None:
        self.width = mosaic.width * network.factor
        self.height = mosaic.height * network.factor
        self._mosaic = mosaic
        self._network = network
        self._gains: Triple = (gains[0] * exposure, gains[1] * exposure, gains[2] * exposure)
        self._exposure = np.float32(exposure)
        self._brightest = max(1.0, float(encoded_as(np.array([max(self._gains)], np.float32))[0]))
        red, green, blue = (n.amplified(g) for n, g in zip(noise, self._gains, strict=True))
        self._noise = red, green, blue
        # Where the canvas of whole cells begins on the sensor: at or before its first pixel.
        column, row = mosaic.red_at
        step = network.cells
        self._left, self._top = (n - step if n else 0 for n in (column, row))
        self._canvas = tuple(
            -(-(n - first) // step) * step for n, first in ((mosaic.width, self._left), (mosaic.height, self._top))
        )

    def render(self, window: Window, progress: Progress) -> Pixels:
        """Pixels of the window: linear, black at 0, green cut off at 1, not clipped."""
        f = self._network.factor
        x, y = window.x // f, window.y // f
        covered = Window(x, y, -(-window.right // f) - x, -(-window.bottom // f) - y)
        out = np.empty((window.height, window.width, 3), np.float32)
        wide, high = tile_shape(covered.width, covered.height, self._network.halo, self._network.tile_px)
        for tile in covered.tiles(wide, high):
            planes = self._run_tile(tile, progress)
            shared = Window(tile.x * f - window.x, tile.y * f - window.y, tile.width * f, tile.height * f)
            inner = shared.clipped(window.width, window.height)
            rows = slice(inner.y - shared.y, inner.bottom - shared.y)
            columns = slice(inner.x - shared.x, inner.right - shared.x)
            self._to_light(planes[:, rows, columns], out[inner.y : inner.bottom, inner.x : inner.right])
        return out

    def _to_light(self, planes: Pixels, out: Pixels) -> None:
        """Linear, interleaved, at the exposure of the sensor."""
        scale = np.float32(1 / self._exposure)

        def rows(some: slice) -> None:
            light = srgb_decode(planes[:, some]) * scale
            for channel in range(3):
                out[some, :, channel] = light[channel]

        run_parallel_blocks(len(out), out[:1].nbytes * _TEMPORARIES, rows, min_rows=1)

    def _run_tile(self, tile: Window, progress: Progress) -> Pixels:
        """Run the network on a tile: (3, f h, f w)."""
        f = self._network.factor
        on_canvas = Window(tile.x - self._left, tile.y - self._top, tile.width, tile.height)
        padded = on_canvas.grown(self._network.halo, *self._canvas).snapped(self._network.cells)
        samples = self._continued(Window(padded.x + self._left, padded.y + self._top, padded.width, padded.height))
        planes = run_network(self._network, network_input(samples, self._noise), progress, brightest=self._brightest)
        left, top = (on_canvas.x - padded.x) * f, (on_canvas.y - padded.y) * f
        return planes[:, top : top + tile.height * f, left : left + tile.width * f]

    def _continued(self, window: Window) -> NDArray[np.float32]:
        """The balanced mosaic of a window that may reach a few pixels over the sensor."""
        wide, high = self._mosaic.width, self._mosaic.height
        inside = window.clipped(wide, high)
        # Some more than is seen, for the mirror.
        around = inside.grown(self._network.cells, wide, high)
        linear = self._mosaic.linear(around, self._gains)
        before = (max(-window.x, 0), max(-window.y, 0))
        after = (max(window.right - wide, 0), max(window.bottom - high, 0))
        mirrored = np.pad(linear, ((before[1], after[1]), (before[0], after[0])), mode="reflect")
        top, left = inside.y - around.y, inside.x - around.x
        return mirrored[top : top + window.height, left : left + window.width]


class DevelopedStage:
    """What a stage of camera colours looks like once it is developed, pixel by pixel."""

    origin, scale = (0.0, 0.0), 1.0
    layout: ChannelLayout = "rgb"

    def __init__(self, camera: Stage, develop: Callable[[Pixels], Pixels]) -> None:
        self.width, self.height = camera.width, camera.height
        self._camera = camera
        self._develop = develop

    def render(self, window: Window, progress: Progress) -> Pixels:
        """Pixels of the window, in 0..1."""
        return self._develop(self._camera.render(window, progress))
