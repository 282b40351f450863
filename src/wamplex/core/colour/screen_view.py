"""How pixels are shown: on which screen, and as which print. Nothing that is measured knows of it."""

from __future__ import annotations

from dataclasses import dataclass, replace

from wamplex.core.colour.convert import (
    RenderingIntent,
    composite,
    convert,
    source_profile,
    to_srgb,
    to_srgb_on_ground,
)
from wamplex.core.colour.icc import SRGB, make_profile
from wamplex.core.model.picture import Picture, Pixels


@dataclass(frozen=True)
class ScreenView:
    """What stands between pixels and the eye.

    Attributes
    ----------
    screen : ICC profile of the screen, None for sRGB
    proof : ICC profile of a printer whose colours are simulated, None for none
    intent : how colours are brought into the printer's gamut
    paper : whether the paper's own white is shown
    with_file : whether the colours of the file are shown beside the proof
    """

    screen: bytes | None = None
    proof: bytes | None = None
    intent: RenderingIntent = "relative"
    paper: bool = False
    with_file: bool = False

    @property
    def unproofed(self) -> ScreenView:
        """The same screen with the colours of the file."""
        return ScreenView(screen=self.screen)

    @property
    def alone(self) -> ScreenView:
        """As far as it says how pixels look."""
        return replace(self, with_file=False) if self.proof is not None else self.unproofed


PLAIN = ScreenView()


def convert_for_screen(pixels: Pixels, picture: Picture, view: ScreenView = PLAIN) -> Pixels:
    """Result pixels on the picture's ground, as the screen is to show them: (H, W, 3) float32 in 0..1.

    Returns
    -------
    (H, W, 3) float32 in 0..1, encoded for the screen.
    """
    if view == PLAIN:
        return to_srgb_on_ground(pixels, picture)
    srgb = make_profile(SRGB)
    is_grey = picture.pixels.shape[2] == 1
    colour, profile = (to_srgb(pixels, picture), srgb) if is_grey else (pixels, source_profile(picture))
    into = view.screen or srgb
    return composite(convert(colour, profile, into, view.proof, view.intent, paper=view.paper), picture.ground)
