"""Moving from one spot of a picture to the next."""

from __future__ import annotations

from wamplex.app.bench.viewport import Viewport
from wamplex.core.analysis.content.spots import Spot


class SpotWalk:
    """Remembers at which spot a viewport was last."""

    def __init__(self, viewport: Viewport) -> None:
        self._viewport = viewport
        self._last = -1

    def step(self, spots: tuple[Spot, ...], by: int) -> str:
        """Look at the next spot, or the one before; at 100 % unless another zoom is chosen.

        Returns
        -------
        What is looked at now, in words.
        """
        if not spots:
            return "There are no spots yet"
        self._last = (self._last + by) % len(spots) if self._last >= 0 else 0
        spot = spots[self._last]
        if self._viewport.zoom is None:
            self._viewport.set_zoom(1.0)
        self._viewport.move_to(spot.x, spot.y)
        return f"{spot.name}, {self._last + 1} of {len(spots)}"
