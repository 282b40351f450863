"""What every upscaler offers."""

from __future__ import annotations

from typing import Literal, Protocol

from wamplex.core.geometry.size import Size
from wamplex.core.model.upscale_values import Values
from wamplex.core.model.value_table import ValueName
from wamplex.core.upscale.stages.kernels import Kernel
from wamplex.core.upscale.stages.stage import Stage

UpscalerKind = Literal["interpolation", "learned", "guest"]


class Upscaler(Protocol):
    """One way to enlarge."""

    @property
    def key(self) -> str:
        """Short name used in recipes and on the command line."""

    @property
    def name(self) -> str:
        """Name shown to the user."""

    @property
    def kind(self) -> UpscalerKind:
        """How it works."""

    @property
    def purpose(self) -> str:
        """One sentence about what it is for."""

    @property
    def sees_sensor(self) -> bool:
        """Whether it works on the mosaic of a raw file instead of on pixels."""

    @property
    def values(self) -> tuple[ValueName, ...]:
        """Names of the values it heeds, its own first."""

    def chain(self, source: Stage, width: int, height: int, values: Values) -> Stage:
        """The stages that turn ``source`` into ``width`` x ``height`` pixels."""

    def tile(self, size: Size, values: Values, channels: int) -> tuple[int, int]:
        """Columns and rows of a result of this size that are best made at a time."""

    @property
    def kernel(self) -> Kernel | None:
        """What its last resampling is done with; None copies the nearest pixel."""

    def reach(self, factor: float, values: Values) -> float:
        """How far it enlarges for ``factor`` before the result is resampled; 1 where it only resamples."""

    def steps(self, factor: float, values: Values | None = None) -> str:
        """In words, what is done for an enlargement by ``factor``."""
