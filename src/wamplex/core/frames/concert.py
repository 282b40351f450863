"""Concert: joins several frames of one scene into one enlargement."""

from __future__ import annotations

from dataclasses import dataclass

from wamplex.core.base.errors import RecipeError
from wamplex.core.base.window import Window
from wamplex.core.frames.joined_stage import Frames, JoinedStage, block_px
from wamplex.core.geometry.framing import Framing
from wamplex.core.geometry.size import Size
from wamplex.core.model.picture import Picture
from wamplex.core.model.upscale_values import Values
from wamplex.core.model.value_table import ValueName
from wamplex.core.upscale.stages.kernels import LANCZOS3, Kernel
from wamplex.core.upscale.stages.orientation import OrientedStage
from wamplex.core.upscale.stages.resample import ResampleStage
from wamplex.core.upscale.stages.stage import SourceStage, Stage
from wamplex.core.upscale.upscalers.interface import UpscalerKind
from wamplex.core.upscale.upscalers.mender import MENDER
from wamplex.core.upscale.upscalers.native_factor import native_factor, resampled_text

_FACTORS = (2, 3, 4)
_TILE_BLOCKS = 3  # along each side of a tile


class FramesStage(SourceStage):
    """A framed picture that knows the whole picture and the other frames of its scene.

    Parameters
    ----------
    framed : turned and cropped, unless it is straightened
    origin : where it was cut out of the turned source
    whole : as it lies in its file
    frames : of the scene
    arrangement : turns and flip
    crop : what is left then, in source pixels; None for all
    """

    def __init__(
        self,
        framed: Picture,
        origin: tuple[float, float],
        whole: Picture,
        frames: Frames,
        arrangement: Framing,
        crop: Window | None,
    ) -> None:
        super().__init__(framed, origin)
        self.whole = whole
        self.frames = frames
        self.arrangement = arrangement
        self.crop = crop


@dataclass(frozen=True)
class Concert:
    """The upscaler of several frames."""

    key: str = "concert"
    name: str = "Concert"
    purpose: str = "Joins several frames of one scene into detail that was really there."
    kind: UpscalerKind = "learned"
    kernel: Kernel | None = LANCZOS3
    sees_sensor: bool = False
    values: tuple[ValueName, ...] = ("noise", "compression", "codec", "keep_source")

    def chain(self, source: Stage, width: int, height: int, values: Values) -> Stage:
        """Mender's enlargement of the reference, joined with all frames, then resampled to the exact size.

        Raises
        ------
        RecipeError : when there is one frame alone
        """
        if not isinstance(source, FramesStage):
            raise RecipeError("Concert needs two or more frames of one scene. Add the others first.")
        factor = self.native(max(width / source.width, height / source.height))
        whole = source.whole
        joined = JoinedStage(enlarge_alone(whole, factor, values), source.frames, factor, whole.width, whole.height)
        large = None if source.crop is None else source.crop.enlarged(factor)
        stage: Stage = OrientedStage(joined, source.arrangement, large)
        if (stage.width, stage.height) != (width, height):
            stage = ResampleStage(stage, width, height, LANCZOS3)
        return stage

    def native(self, factor: float) -> int:
        """The factor that frames are joined at: the least that reaches, else the largest."""
        return native_factor(factor, _FACTORS)

    def tile(self, size: Size, values: Values, channels: int) -> tuple[int, int]:
        """A few blocks."""
        factor = max(size.width_px / size.source_width, size.height_px / size.source_height)
        side = round(_TILE_BLOCKS * block_px(self.native(factor)) * factor)
        return min(side, size.width_px), min(side, size.height_px)

    def reach(self, factor: float, values: Values) -> float:
        """The factor that frames are joined at."""
        return float(self.native(factor))

    def steps(self, factor: float, values: Values | None = None) -> str:
        """In words, what is done."""
        native = self.native(factor)
        return resampled_text(f"frames joined at {native}×", native, factor)


def enlarge_alone(picture: Picture, factor: int, values: Values) -> Stage:
    """The enlargement of the reference alone, which the frames are then joined into.

    Parameters
    ----------
    picture : the reference, whole
    factor : enlargement, 2, 3 or 4
    values : noise and compression to clean; the blur is the frames' to undo
    """
    size = (picture.width * factor, picture.height * factor)
    return MENDER.chain(SourceStage(picture), *size, values.replace(blur=0.0))


CONCERT = Concert()
