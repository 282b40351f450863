"""A guest: pixels made elsewhere, as an upscaler."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

from pydantic import AliasChoices, Field

from wamplex.core.base.errors import RecipeError
from wamplex.core.base.frozen_model import FrozenModel
from wamplex.core.geometry.size import Size
from wamplex.core.model.upscale_values import Values
from wamplex.core.model.value_table import ValueName
from wamplex.core.upscale.stages.kernels import CATMULL_ROM, Kernel
from wamplex.core.upscale.stages.stage import Stage
from wamplex.core.upscale.stages.tiling import band_shape
from wamplex.core.upscale.upscalers.interface import UpscalerKind

PREFIX = "guest-"


class GuestNote(FrozenModel):
    """What is known of a guest.

    Attributes
    ----------
    file, added_on : name of the file it came from, and the day it was taken in, as ISO 8601 has it
    source : SHA-256 of the picture that it shows, in hexadecimal
    source_width, source_height : of that picture, upright
    width, height : of the guest
    right, down : how far it must be moved to lie as the picture does, in source pixels
    profile : its ICC profile, in Base64; None for sRGB
    """

    file: str
    added_on: str = Field(validation_alias=AliasChoices("added_on", "taken"))
    source: str
    source_width: int
    source_height: int
    width: int
    height: int
    right: float = 0.0
    down: float = 0.0
    profile: str | None = None


@dataclass(frozen=True)
class Guest:
    """One guest; its pixels lie in this program's own folder, so that its file may go.

    Attributes
    ----------
    path : (H, W, C) uint16 as NumPy writes it
    """

    key: str
    path: Path
    note: GuestNote
    kind: UpscalerKind = "guest"
    sees_sensor: bool = False
    values: tuple[ValueName, ...] = ("keep_source",)
    kernel: Kernel | None = CATMULL_ROM

    @property
    def name(self) -> str:
        """Under which it is shown: that of its file."""
        return Path(self.note.file).stem

    @property
    def purpose(self) -> str:
        """Where it is from."""
        return f"{self.provenance[0].upper()}{self.provenance[1:]}"

    @property
    def provenance(self) -> str:
        """In a sentence, where its pixels come from and what was done to them."""
        note = self.note
        size = f"{note.width} × {note.height} px"
        text = f"enlarged elsewhere, from {note.file} ({size}), taken in on {note.added_on}"
        if note.right or note.down:
            across, down = (n * note.width / note.source_width for n in (note.right, note.down))
            text += f", moved by {across:+.2f}, {down:+.2f} px to fit"
        return f"{text}."

    def chain(self, source: Stage, width: int, height: int, values: Values) -> Stage:
        """A guest makes nothing of a source; see `wamplex.core.guests.guest_stage`.

        Raises
        ------
        RecipeError : always
        """
        raise RecipeError(f"{self.name} is a guest: it belongs to one picture and cannot enlarge others.")

    def tile(self, size: Size, values: Values, channels: int) -> tuple[int, int]:
        """Bands, as when a picture is only resampled."""
        return band_shape(size.width_px, channels)

    def reach(self, factor: float, values: Values) -> float:
        """Factor of the guest."""
        return self.note.width / self.note.source_width

    def steps(self, factor: float, values: Values | None = None) -> str:
        """In words, what is done."""
        reached = self.reach(factor, values or Values())
        text = f"enlarged {reached:.4g}× elsewhere"
        if abs(reached / factor - 1) < 1e-3:
            return text
        return f"{text}, then {'shrunk' if reached > factor else 'resampled'} to {factor:.4g}×"
