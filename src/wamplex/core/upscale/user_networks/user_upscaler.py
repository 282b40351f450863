"""An upscaler made of a network of the user's."""

from __future__ import annotations

import math
from dataclasses import dataclass
from pathlib import Path

import numpy as np

from wamplex.core.base.progress import Progress
from wamplex.core.base.window import Window
from wamplex.core.geometry.size import Size
from wamplex.core.model.picture import Pixels
from wamplex.core.model.upscale_values import COMMON_VALUES, Values
from wamplex.core.model.value_table import ValueName
from wamplex.core.upscale.networks.output_validation import validate_output
from wamplex.core.upscale.stages.kernels import LANCZOS3, Kernel
from wamplex.core.upscale.stages.resample import ResampleStage
from wamplex.core.upscale.stages.stage import FollowingStage, Stage
from wamplex.core.upscale.stages.tiling import band_shape
from wamplex.core.upscale.upscalers.interface import UpscalerKind
from wamplex.core.upscale.user_networks.inspection import TILE_SIDE_PX, NetworkInterface
from wamplex.core.upscale.user_networks.network_client import run_user_network

_MOST_PASSES = 3
_SQUARES = 3  # a side, made at a time


@dataclass(frozen=True)
class UserUpscaler:
    """Runs one network as often as the factor needs, then shrinks to the exact size."""

    key: str
    name: str
    path: Path
    findings: NetworkInterface
    kind: UpscalerKind = "learned"
    sees_sensor: bool = False
    values: tuple[ValueName, ...] = COMMON_VALUES
    kernel: Kernel | None = LANCZOS3

    @property
    def purpose(self) -> str:
        """Text on the network."""
        f = self.findings
        return f"Your own network, {f.factor}× a pass, {f.seconds_per_megapixel:.2g} s a megapixel when tried."

    def _passes(self, factor: float) -> int:
        if factor <= 1.0:
            return 0
        if self.findings.factor == 1:
            return 1
        passes = 1
        while self.findings.factor**passes < factor and passes < _MOST_PASSES:
            passes += 1
        return passes

    def chain(self, source: Stage, width: int, height: int, values: Values) -> Stage:
        """Passes of the network, then a Lanczos 3 resample to the exact size."""
        stage = source
        for _ in range(self._passes(max(width / source.width, height / source.height))):
            stage = GridStage(stage, self.path, self.findings)
        if (stage.width, stage.height) != (width, height):
            stage = ResampleStage(stage, width, height, LANCZOS3)
        return stage

    def tile(self, size: Size, values: Values, channels: int) -> tuple[int, int]:
        """A few of the squares that its network is given."""
        factor = max(size.width_px / size.source_width, size.height_px / size.source_height)
        if self._passes(factor) == 0:
            return band_shape(size.width_px, channels)
        columns, rows = GridStage.steps(self.findings)
        return math.ceil(_SQUARES * columns * factor), math.ceil(_SQUARES * rows * factor)

    def reach(self, factor: float, values: Values) -> float:
        """Largest factor of its passes."""
        return float(self.findings.factor ** self._passes(factor))

    def steps(self, factor: float, values: Values | None = None) -> str:
        """In words, what is done."""
        passes, native = self._passes(factor), self.findings.factor
        if passes == 0:
            return "nothing to enlarge" if factor == 1.0 else "shrunk with Lanczos 3: nothing to enlarge"
        text = " then ".join([f"{native}×"] * passes)
        text = f"one pass of {text}" if passes == 1 else text
        reached = native**passes
        if reached == factor:
            return text
        return f"{text}, then {'shrunk' if reached > factor else 'resampled'} to {factor:.4g}×"


class GridStage(FollowingStage):
    """Runs an unknown network on squares that always lie on the same grid of the source.

    How far its result depends on its surroundings is not known, so squares are cut where they always are,
    whatever window is asked for. Then any window equals that window of the whole. Each square is fed
    with a margin, which repeats the edge pixels where the picture ends.
    """

    _SIDE_PX, _MARGIN_PX = TILE_SIDE_PX, 16

    def __init__(self, before: Stage, path: Path, findings: NetworkInterface) -> None:
        self.width = before.width * findings.factor
        self.height = before.height * findings.factor
        self._before = before
        self._path = path
        self._findings = findings
        self._margin = self._margin_of(findings)
        self._step = self.steps(findings)

    @classmethod
    def steps(cls, findings: NetworkInterface) -> tuple[int, int]:
        """Source columns and rows from one square to the next."""
        rows, columns = findings.side or (cls._SIDE_PX, cls._SIDE_PX)
        margin = cls._margin_of(findings)
        return columns - 2 * margin, rows - 2 * margin

    @classmethod
    def _margin_of(cls, findings: NetworkInterface) -> int:
        return min(cls._MARGIN_PX, min(findings.side or (cls._SIDE_PX,)) // 4)

    def render(self, window: Window, progress: Progress) -> Pixels:
        """Pixels of the window, not clipped."""
        f = self._findings.factor
        across, down = self._step[0] * f, self._step[1] * f
        out: Pixels | None = None
        for row in range(window.y // down, -(-window.bottom // down)):
            for column in range(window.x // across, -(-window.right // across)):
                progress.check()
                pixels = self._square(column, row, progress)
                if out is None:
                    out = np.empty((window.height, window.width, pixels.shape[2]), np.float32)
                place = Window(column * across, row * down, pixels.shape[1], pixels.shape[0])
                left, top = max(window.x, place.x), max(window.y, place.y)
                right, bottom = min(window.right, place.right), min(window.bottom, place.bottom)
                out[top - window.y : bottom - window.y, left - window.x : right - window.x] = pixels[
                    top - place.y : bottom - place.y, left - place.x : right - place.x
                ]
        assert out is not None
        return out

    def _square(self, column: int, row: int, progress: Progress) -> Pixels:
        across, down = self._step
        margin, f = self._margin, self._findings.factor
        x = np.clip(np.arange(-margin, across + margin) + column * across, 0, self._before.width - 1)
        y = np.clip(np.arange(-margin, down + margin) + row * down, 0, self._before.height - 1)
        window = Window(int(x[0]), int(y[0]), int(x[-1] - x[0]) + 1, int(y[-1] - y[0]) + 1)
        source = self._before.render(window, progress)[np.ix_(y - y[0], x - x[0])]
        result = np.concatenate([self._run(part, progress) for part in _as_colours(source)], axis=2)
        channels = source.shape[2]
        if channels == 2:
            result = result[..., [0, 3]]
        result = result[..., :channels]
        inner: Pixels = result[margin * f : (margin + down) * f, margin * f : (margin + across) * f]
        return inner

    def _run(self, colour: Pixels, progress: Progress) -> Pixels:
        result = run_user_network(self._path, self._findings, np.ascontiguousarray(colour), progress)
        validate_output(result, self._path.stem)
        return result


def _as_colours(source: Pixels) -> list[Pixels]:
    """Three-channel images that hold 1 to 4 channels; alpha by itself as grey."""
    channels = source.shape[2]
    colour = source[..., :3] if channels >= 3 else np.repeat(source[..., :1], 3, axis=2)
    return [colour] if channels in (1, 3) else [colour, np.repeat(source[..., -1:], 3, axis=2)]
