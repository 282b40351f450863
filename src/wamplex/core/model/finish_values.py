"""What a recipe says of finishing: layers and their masks, faces, tone, sharpening, grain."""

from __future__ import annotations

from typing import Literal, Self

from pydantic import Field, model_validator

from wamplex.core.base.frozen_model import FrozenModel
from wamplex.core.model.assets import AssetRef
from wamplex.core.model.trial_spec import TrialSpec

BeginningKind = Literal["everywhere", "nowhere", "subject", "faces", "sharp", "tones", "colours", "file"]
MOST_LAYERS, MOST_FACES = 16, 100
MOST_FEATHER_PX = 200.0


class InitialMask(FrozenModel):
    """What a mask is before anything is painted.

    Attributes
    ----------
    picture : grey picture over the whole upright source, white where the layer shows; kept with the project,
        so that a mask that was found does not change under the user's hands
    low, high, soft : for tones, in percent of the range from black to white
    colour, colour_tolerance : for colours, L*, a* and b* of the picked colour, and the CIELAB difference that counts
    """

    kind: BeginningKind = "everywhere"
    picture: AssetRef | None = None
    low: float = Field(default=0.0, ge=0, le=100)
    high: float = Field(default=100.0, ge=0, le=100)
    soft: float = Field(default=10.0, ge=0, le=100)
    colour: tuple[float, float, float] | None = None
    colour_tolerance: float = Field(default=20.0, ge=1, le=200)

    @model_validator(mode="after")
    def _has_its_picture(self) -> Self:
        if (self.picture is None) != (self.kind in ("everywhere", "nowhere")):
            raise ValueError(f"a mask that starts with “{self.kind}” has the wrong picture")
        return self


class Mask(FrozenModel):
    """Where something shows.

    Attributes
    ----------
    strokes : what was painted, see `wamplex.core.finish.strokes`
    feather_px : standard deviation of the softening, in source pixels
    """

    initial_mask: InitialMask = InitialMask()
    strokes: AssetRef | None = None
    feather_px: float = Field(default=0.0, ge=0, le=MOST_FEATHER_PX)
    inverted: bool = False

    @property
    def empty(self) -> bool:
        """Whether it is plain without looking that nothing shows through it."""
        return self.strokes is None and self.initial_mask.kind == ("everywhere" if self.inverted else "nowhere")


class Layer(FrozenModel):
    """A second result laid over the stamped one.

    Attributes
    ----------
    source_trial : None for the source, plainly enlarged
    strength : percent
    """

    source_trial: TrialSpec | None = None
    strength: float = Field(default=100.0, ge=0, le=100)
    mask: Mask = Mask()
    on: bool = True


class TreatedFace(FrozenModel):
    """A face as a soft oval, hair line included.

    Attributes
    ----------
    x, y : its middle, as shares of the upright source's width and height
    width, height : of the oval, in source pixels
    angle_deg : clockwise tilt
    on : whether the face is treated
    source_trial, strength : of this face alone, None for what holds for all
    """

    x: float = Field(ge=-0.5, le=1.5)
    y: float = Field(ge=-0.5, le=1.5)
    width: float = Field(gt=0, le=100_000)
    height: float = Field(gt=0, le=100_000)
    angle_deg: float = Field(default=0.0, ge=-180, le=180)
    on: bool = True
    source_trial: TrialSpec | None = None
    strength: float | None = Field(default=None, ge=0, le=100)


class FaceTreatment(FrozenModel):
    """What is done to faces apart from the rest.

    Attributes
    ----------
    source_trial : what they are made with, None for what the picture is made with
    attenuation : percent by which sharpening and grain are weaker there
    """

    ellipses: tuple[TreatedFace, ...] = Field(default=(), max_length=MOST_FACES)
    source_trial: TrialSpec | None = None
    strength: float = Field(default=100.0, ge=0, le=100)
    attenuation: float = Field(default=0.0, ge=0, le=100)


class Tone(FrozenModel):
    """Light and colour taken from a reference, resolved to a curve and a matrix when it was decided.

    Attributes
    ----------
    curve : L* (0 to 100) that evenly spaced L* from 0 to 100 become
    matrix, shift : what a* and b* become: ``matrix @ (a, b) + shift``
    strength : percent
    reference : what it was taken from, in words
    """

    curve: tuple[float, ...] = Field(min_length=2, max_length=129)
    matrix: tuple[float, float, float, float] = (1.0, 0.0, 0.0, 1.0)
    shift: tuple[float, float] = (0.0, 0.0)
    strength: float = Field(default=100.0, ge=0, le=100)
    mask: Mask = Mask()
    reference: str = ""


class Sharpen(FrozenModel):
    """Sharpening for the print.

    Attributes
    ----------
    amount : percent of the difference from the softened picture that is added
    radius_mm : standard deviation of the softening, on paper
    floor : differences up to so many levels (of 255) are left alone
    halo_limit : levels by which the result may exceed the brightest and darkest around
    """

    amount: float = Field(default=80.0, ge=0, le=500)
    radius_mm: float = Field(default=0.1, gt=0, le=5)
    floor: float = Field(default=0.0, ge=0, le=50)
    halo_limit: float = Field(default=8.0, ge=0, le=255)
    mask: Mask = Mask()


class Grain(FrozenModel):
    """Grain against the painted look.

    Attributes
    ----------
    amount : standard deviation in levels (of 255) where its weight is 100
    size_mm : width of a grain on paper at half of its height
    roughness : percent of its variance that is half as large
    shadows, midtones, lights : weight in percent
    colour : whether each channel has its own
    """

    amount: float = Field(default=4.0, ge=0, le=60)
    size_mm: float = Field(default=0.15, gt=0, le=5)
    roughness: float = Field(default=40.0, ge=0, le=100)
    shadows: float = Field(default=60.0, ge=0, le=100)
    midtones: float = Field(default=100.0, ge=0, le=100)
    lights: float = Field(default=40.0, ge=0, le=100)
    colour: bool = False
    mask: Mask = Mask()


class Finish(FrozenModel):
    """All that is done after the stamped trial, in this order."""

    layers: tuple[Layer, ...] = Field(default=(), max_length=MOST_LAYERS)
    faces: FaceTreatment | None = None
    tone: Tone | None = None
    sharpen: Sharpen | None = None
    grain: Grain | None = None

    @property
    def masks(self) -> tuple[Mask, ...]:
        """All masks in it."""
        surface = [part.mask for part in (self.tone, self.sharpen, self.grain) if part is not None]
        return (*(layer.mask for layer in self.layers), *surface)

    @property
    def parts(self) -> tuple[AssetRef, ...]:
        """The binary parts it means: what masks begin with, and what was painted on them."""
        refs = [ref for mask in self.masks for ref in (mask.initial_mask.picture, mask.strokes)]
        return tuple(ref for ref in refs if ref is not None)
