"""Thicket: adds plausible texture; Invention says how much."""

from __future__ import annotations

from wamplex.core.upscale.learned import Learned, Network
from wamplex.core.upscale.network import TILE_PX
from wamplex.core.upscale.vellum import STANDARD_HALO

# In place of Vellum's head, which looks one pixel far: two layers of weights, and the filters of the grain,
# which span four pixels of the enlarged picture to each side.
_HALO = {2: STANDARD_HALO + 3, 4: STANDARD_HALO + 2}

THICKET = Learned(
    key="thicket",
    name="Thicket",
    purpose="Learned and inventing: hair, grass, bark, cloth, where plausible texture may stand for true.",
    networks=tuple(
        Network(f"vellum-standard-{f}x.onnx", f, halo, textured=f"thicket-{f}x.onnx")
        for f, halo in _HALO.items()
    ),
    own_values=("invention", "spared"),
    tile_px=TILE_PX // 2,  # every filter weighs every pixel of the enlarged picture: many planes
)
