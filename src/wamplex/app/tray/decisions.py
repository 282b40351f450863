"""What the user decided about one picture, separate from what was measured."""

from __future__ import annotations

from dataclasses import dataclass, field

from wamplex.app.tray.trials import Trials
from wamplex.core.analysis.content.spots import Spot
from wamplex.core.geometry.framing import Framing
from wamplex.core.geometry.sheet import Sheet
from wamplex.core.geometry.size import DEFAULT_DENSITY_PPI
from wamplex.core.model.development import Development
from wamplex.core.model.finish_values import Finish
from wamplex.core.model.frame_set import FrameSet

DEFAULT_FACTOR = 4.0
DEFAULT_SEEN_FROM_MM = 500.0


@dataclass(frozen=True)
class Decisions:
    """All that is decided about one picture; a value, changed by making another.

    Attributes
    ----------
    development : how a raw file is developed
    framing : how it is turned, straightened and cropped
    factor, density_ppi : the size
    sheet : what it is printed on; None leaves the print as large as factor and density make it
    viewing_distance_mm : how close one may stand
    spots : the places trials are judged at, as shares of the source's width and height; None for those that
        are found by themselves
    trials : which upscalers are compared and which one is delivered; None for the usual ones, and what the
        measurements add to them
    finish : what is done after the stamped trial
    frames : further frames of the scene, joined by Concert
    """

    development: Development = field(default_factory=Development)
    framing: Framing = field(default_factory=Framing)
    factor: float = DEFAULT_FACTOR
    density_ppi: float = DEFAULT_DENSITY_PPI
    sheet: Sheet | None = None
    viewing_distance_mm: float = DEFAULT_SEEN_FROM_MM
    spots: tuple[Spot, ...] | None = None
    trials: Trials | None = None
    finish: Finish = field(default_factory=Finish)
    frames: FrameSet | None = None
