"""The networks that are trained: shape, what they learn from, what they start from, how they are judged."""

from __future__ import annotations

import math
from dataclasses import dataclass, field
from typing import Literal

Damage = Literal["none", "soft", "photograph", "drawing", "noisy drawing"]
Objective = Literal["faithful", "exact", "exact everywhere", "inventing"]
TOLD_INPUTS = 10
MOSAIC_INPUTS = 10


@dataclass(frozen=True)
class Family:
    """One network: a trunk with a head per factor.

    Attributes
    ----------
    channels, blocks : size of the trunk
    wide_blocks : further blocks whose pixels lie two apart, for a wider view at the cost of one block each
    coarse_blocks : blocks beside the wide ones that work on cells of 2 x 2 pixels with twice the channels,
        which for the cost of one block each see twice as far and have four times the weights
    coarse_channels : channels of the coarse blocks, 0 for twice those of the trunk
    coarsest_blocks : blocks amid the coarse ones, on cells of 4 x 4 pixels with three times the channels
    late_blocks : blocks after what was seen from afar has come back
    mosaic : whether it is given a sensor's mosaic, whose cells of 2 x 2 pixels are its pixels
    inputs : 3 for colour alone; 10 for the undone picture, the source, and a plane each for noise,
        compression, softness, and whether the compression is that of WebP
    factors : native enlargements
    grained : whether texture made of grain is added, with further input planes of grain, one a pixel of the
        shuffle; then nothing else is trained
    patch_px, batch : side of the small patches, and how many are learned from at a time
    factor_shares : how often each factor is drawn
    picture_shares : how often each collection of prepared pictures is drawn
    damage : what is done to the small picture after shrinking
    rate : largest learning rate
    measured_on : condition that the gain is reported under while training
    objective : what is made smaller: the mean difference, its decibels patch by patch (which asks for the
        last bit of exactness where a picture is flat and clean), those of each place in a patch besides, or
        the look of texture as well
    evened : whether it is taught besides to leave flat colour as it is
    start_from : family whose shipped weights are the first weights, where none of its own are shipped
    """

    name: str
    channels: int = 48
    blocks: int = 6
    wide_blocks: int = 0
    coarse_blocks: int = 0
    coarse_channels: int = 0
    coarsest_blocks: int = 0
    late_blocks: int = 0
    mosaic: bool = False
    inputs: int = 3
    factors: tuple[int, ...] = (2, 3, 4)
    grained: bool = False
    patch_px: int = 32
    batch: int = 16
    factor_shares: tuple[float, ...] = (0.35, 0.35, 0.30)
    picture_shares: dict[str, float] = field(default_factory=lambda: {"photographs": 1.0})
    damage: Damage = "none"
    start_from: str | None = None
    rate: float = 4e-4
    measured_on: str = "clean"
    objective: Objective = "faithful"
    evened: bool = False

    @property
    def cells(self) -> int:
        """Side in source pixels of the squares it works on."""
        own = 4 if self.coarsest_blocks else 2 if self.coarse_blocks else 1
        return own * (2 if self.mosaic else 1)

    def halo(self, factor: int) -> int:
        """Source pixels on each side that influence an output pixel: those its convolutions reach."""
        far = 4 * self.wide_blocks
        if self.coarse_blocks:
            # The pixels of the cell that a pixel lies in come to what neighbouring cells reach.
            beside = (4 if self.coarsest_blocks else 2) - 1
            far = max(far, 4 * self.coarse_blocks + 8 * self.coarsest_blocks + beside)
        near = 1 + 2 * self.blocks + far + 2 * self.late_blocks
        if self.mosaic:
            return 2 * (near + 1) + 1  # in the mosaic's pixels
        # In place of the head, which looks one pixel far: two layers of weights, and the filters of the
        # grain, which span four pixels of the enlarged picture to each side.
        return near + (2 + math.ceil(4 / factor) if self.grained else 1)

    def planes(self, factor: int) -> int:
        """Input planes of the network for one factor."""
        return self.inputs + (factor * factor if self.grained else 0)


FAMILIES = {
    family.name: family
    for family in (
        Family(
            "vellum-standard",
            picture_shares={"photographs": 0.86, "portraits": 0.14},
            patch_px=48,  # its view is 14 pixels to each side, and what is undone reaches 8 more
            batch=8,
            damage="soft",
            rate=4e-4,
            objective="exact",
        ),
        Family(
            "vellum-patient",
            coarse_blocks=4,
            coarsest_blocks=2,
            late_blocks=2,
            patch_px=48,
            batch=8,
            factor_shares=(0.3, 0.15, 0.55),
            picture_shares={"photographs": 0.88, "portraits": 0.12},
            rate=4e-4,
            start_from="vellum-standard",
        ),
        Family("vellum-quick", channels=32, blocks=4, rate=8e-4),
        Family(
            "mender",
            wide_blocks=2,
            coarse_blocks=4,
            inputs=TOLD_INPUTS,
            patch_px=48,  # a view this wide would see little but borders in a smaller one
            batch=8,
            factor_shares=(0.35, 0.20, 0.45),
            picture_shares={"photographs": 0.86, "portraits": 0.14},
            damage="photograph",
            rate=1e-4,
            objective="exact",
            evened=True,
            measured_on="JPEG 50",
            start_from="vellum-standard",
        ),
        Family(
            "burin",
            wide_blocks=2,
            factor_shares=(0.2, 0.3, 0.5),
            picture_shares={"drawings": 0.48, "lettering": 0.44, "paintings": 0.08},
            patch_px=48,  # its view is 22 pixels to each side
            batch=8,
            damage="none",
            rate=1.5e-4,
            objective="exact",
            evened=True,
            start_from="vellum-standard",
        ),
        Family(
            "burin-mending",
            wide_blocks=2,
            inputs=TOLD_INPUTS,
            factor_shares=(0.3, 0.3, 0.4),
            picture_shares={"drawings": 0.5, "lettering": 0.5},
            patch_px=48,
            batch=8,
            damage="drawing",
            rate=1.5e-4,
            objective="exact",
            measured_on="JPEG 75",
            evened=True,
            start_from="burin",
        ),
        Family(
            "burin-noisy",
            wide_blocks=2,
            coarse_blocks=4,
            inputs=TOLD_INPUTS,
            factor_shares=(0.3, 0.3, 0.4),
            picture_shares={"drawings": 0.5, "lettering": 0.5},
            patch_px=80,  # its view is 31 pixels to each side
            batch=4,
            damage="noisy drawing",
            rate=3e-4,
            objective="exact everywhere",
            measured_on="noise 25",
            evened=True,
            start_from="mender",
        ),
        Family(
            "tessera",
            channels=96,
            blocks=2,
            coarse_blocks=3,
            coarse_channels=128,
            late_blocks=2,
            mosaic=True,
            inputs=MOSAIC_INPUTS,
            factors=(1, 2, 3, 4),
            factor_shares=(0.20, 0.35, 0.15, 0.30),
            picture_shares={"photographs": 0.8, "portraits": 0.08, "drawings": 0.06, "lettering": 0.06},
            patch_px=80,  # its view is 47 pixels to each side
            batch=4,
            rate=3e-4,
            objective="exact",
        ),
        Family(
            "thicket",
            factors=(2, 4),
            grained=True,
            factor_shares=(0.35, 0.65),
            rate=1.5e-3,
            objective="inventing",
            start_from="vellum-standard",
        ),
    )
}
