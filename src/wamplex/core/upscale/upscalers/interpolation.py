"""The interpolating upscalers: honest baselines that invent nothing."""

from __future__ import annotations

from dataclasses import dataclass

from wamplex.core.geometry.size import Size
from wamplex.core.model.upscale_values import COMMON_VALUES, Values
from wamplex.core.model.value_table import ValueName
from wamplex.core.upscale.stages.kernels import BILINEAR, CATMULL_ROM, LANCZOS3, MITCHELL, Kernel
from wamplex.core.upscale.stages.nearest import NearestStage
from wamplex.core.upscale.stages.resample import ResampleStage
from wamplex.core.upscale.stages.stage import Stage
from wamplex.core.upscale.stages.tiling import band_shape
from wamplex.core.upscale.upscalers.interface import UpscalerKind


@dataclass(frozen=True)
class Interpolation:
    """Upscaler that resamples once with a kernel; with None it copies the nearest pixel."""

    key: str
    name: str
    purpose: str
    kernel: Kernel | None
    kind: UpscalerKind = "interpolation"
    sees_sensor: bool = False
    values: tuple[ValueName, ...] = COMMON_VALUES

    def chain(self, source: Stage, width: int, height: int, values: Values) -> Stage:
        """One stage, at any factor; none when the size stays, since even then some kernels would blur."""
        if (width, height) == (source.width, source.height):
            return source
        if self.kernel is None:
            return NearestStage(source, width, height)
        return ResampleStage(source, width, height, self.kernel)

    def tile(self, size: Size, values: Values, channels: int) -> tuple[int, int]:
        """Bands from edge to edge."""
        return band_shape(size.width_px, channels)

    def reach(self, factor: float, values: Values) -> float:
        """It only resamples."""
        return 1.0

    def steps(self, factor: float, values: Values | None = None) -> str:
        """In words, what is done."""
        return f"one pass of {factor:.4g}×"


NEAREST = Interpolation("nearest", "Nearest", "Hard square pixels: for pixel art, and to see the source.", None)
BILINEAR_UPSCALER = Interpolation("bilinear", "Bilinear", "Soft and smooth, no halos.", BILINEAR)
BICUBIC = Interpolation(
    "bicubic", "Bicubic", "Catmull-Rom cubic: the usual baseline, slight halos at edges.", CATMULL_ROM
)
MITCHELL_UPSCALER = Interpolation("mitchell", "Mitchell", "A cubic between soft and crisp, faint halos.", MITCHELL)
LANCZOS = Interpolation("lanczos", "Lanczos 3", "The crispest interpolation, with visible halos.", LANCZOS3)
