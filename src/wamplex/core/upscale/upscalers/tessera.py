"""Tessera: makes the picture of a raw file's mosaic and enlarges it, in one."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass

from wamplex.core.base.errors import RecipeError
from wamplex.core.base.window import Window
from wamplex.core.geometry.framing import Framing, Quarters
from wamplex.core.geometry.size import Size
from wamplex.core.model.picture import Picture, Pixels
from wamplex.core.model.raw_file import Mosaic, Triple
from wamplex.core.model.sensor_noise import SensorNoise
from wamplex.core.model.upscale_values import Values
from wamplex.core.model.value_table import ValueName
from wamplex.core.upscale.networks.manifest import NetworkFile, network_file
from wamplex.core.upscale.networks.mosaic_stage import DevelopedStage, MosaicNetworkStage, NoiseOf
from wamplex.core.upscale.stages.averaging import MeanStage
from wamplex.core.upscale.stages.kernels import LANCZOS3, Kernel
from wamplex.core.upscale.stages.orientation import OrientedStage
from wamplex.core.upscale.stages.resample import ResampleStage
from wamplex.core.upscale.stages.stage import SourceStage, Stage
from wamplex.core.upscale.stages.tiling import tile_shape
from wamplex.core.upscale.upscalers.interface import UpscalerKind
from wamplex.core.upscale.upscalers.native_factor import native_factor, resampled_text

_FACTORS = (1, 2, 3, 4)
_QUARTERS: tuple[Quarters, ...] = (0, 1, 2, 3)


@dataclass(frozen=True, eq=False)
class Sensor:
    """What Tessera needs of a raw file.

    Attributes
    ----------
    noise : of red, green and blue as recorded
    develop : linear camera colours, balanced as shot, to finished tones
    exposure : how much brighter the development makes it
    arrangement : turns and flip from the sensor's sides to those wanted
    crop : what is left then, in source pixels; None for all
    """

    mosaic: Mosaic
    gains: Triple
    noise: NoiseOf
    exposure: float
    develop: Callable[[Pixels], Pixels]
    arrangement: Framing
    crop: Window | None


class SensorStage(SourceStage):
    """A developed picture that remembers the sensor it came from."""

    def __init__(self, picture: Picture, origin: tuple[float, float], sensor: Sensor) -> None:
        super().__init__(picture, origin)
        self.sensor = sensor


@dataclass(frozen=True)
class Tessera:
    """The upscaler of raw files."""

    key: str = "tessera"
    name: str = "Tessera"
    purpose: str = "Learned, for raw files: demosaics and enlarges in one step."
    kind: UpscalerKind = "learned"
    kernel: Kernel | None = LANCZOS3
    sees_sensor: bool = True
    values: tuple[ValueName, ...] = ("sensor_noise", "crispness", "self_ensemble", "keep_source")

    def chain(self, source: Stage, width: int, height: int, values: Values) -> Stage:
        """The network whose factor reaches far enough, then an antialiased Lanczos 3 resample.

        Raises
        ------
        RecipeError : when the source is no raw file with a Bayer mosaic
        """
        if not isinstance(source, SensorStage):
            raise RecipeError("Tessera needs a raw file with a Bayer mosaic. Choose Vellum or Mender here.")
        factor = max(width / source.width, height / source.height)
        stage = enlarge_mosaic(
            source.sensor, self.native(factor), values.sensor_noise / 100, self_ensemble=values.self_ensemble
        )
        if (stage.width, stage.height) != (width, height):
            stage = ResampleStage(stage, width, height, LANCZOS3)
        return stage

    def native(self, factor: float) -> int:
        """The network's own factor: the least that reaches, else the largest."""
        return native_factor(factor, _FACTORS)

    def tile(self, size: Size, values: Values, channels: int) -> tuple[int, int]:
        """Tile size of the network."""
        factor = max(size.width_px / size.source_width, size.height_px / size.source_height)
        network = tessera_file(self.native(factor))
        columns, rows = tile_shape(size.source_width, size.source_height, network.halo, network.tile_px)
        return math.ceil(columns * factor), math.ceil(rows * factor)

    def reach(self, factor: float, values: Values) -> float:
        """Largest factor of its network."""
        return float(self.native(factor))

    def steps(self, factor: float, values: Values | None = None) -> str:
        """In words, what is done."""
        native = self.native(factor)
        text = f"from the mosaic to {native}× in one pass"
        return resampled_text(text, native, factor)


def tessera_file(factor: int) -> NetworkFile:
    """The network of a factor."""
    return network_file(f"tessera-{factor}x.onnx")


def enlarge_mosaic(sensor: Sensor, factor: int, strength: float, *, self_ensemble: bool = False) -> Stage:
    """The developed picture at a native factor, turned and cropped as the framing has it.

    Parameters
    ----------
    strength : fraction of the noise that the network is conditioned on, 0 to 1, of its standard deviation
    self_ensemble : the mean of what the network makes of the mosaic flipped and turned in all eight ways
        (self-ensemble, Timofte et al. 2016)
    """
    noise = tuple(SensorNoise(n.shot * strength**2, n.read * strength**2) for n in sensor.noise)

    def camera_of(mosaic: Mosaic) -> Stage:
        return MosaicNetworkStage(
            mosaic,
            tessera_file(factor),
            gains=sensor.gains,
            exposure=sensor.exposure,
            noise=(noise[0], noise[1], noise[2]),
        )

    camera = _eightfold(sensor.mosaic, camera_of) if self_ensemble else camera_of(sensor.mosaic)
    crop = sensor.crop
    large = None if crop is None else crop.enlarged(factor)
    return OrientedStage(DevelopedStage(camera, sensor.develop), sensor.arrangement, large)


def _eightfold(mosaic: Mosaic, camera_of: Callable[[Mosaic], Stage]) -> Stage:
    """The mean over all flips and quarter turns of the sensor, each turned back."""
    looks: list[Stage] = []
    for turns in _QUARTERS:
        back: Quarters = _QUARTERS[-turns]
        looks.append(OrientedStage(camera_of(mosaic.turned(turns, False)), Framing(turns=back)))
        # Turned and then mirrored, done twice, is nothing done.
        again = Framing(turns=turns, flipped=True)
        looks.append(OrientedStage(camera_of(mosaic.turned(turns, True)), again))
    return MeanStage(looks)


TESSERA = Tessera()
