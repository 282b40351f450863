"""Mender: removes noise and repairs compression while it enlarges."""

from __future__ import annotations

from wamplex.core.upscale.learned import Learned, Network
from wamplex.core.upscale.network import TILE_PX
from wamplex.core.upscale.vellum import STANDARD_HALO

# Beside its wide blocks, four work on cells of 2 x 2 pixels: eight convolutions that reach a cell far, and
# the rest of the cell that a pixel lies in.
_CELLS = 2
_HALO = STANDARD_HALO + 8 * _CELLS + _CELLS - 1

MENDER = Learned(
    key="mender",
    name="Mender",
    purpose="Learned, with cleanup: for compressed, noisy, soft or old pictures.",
    networks=tuple(
        Network(f"mender-{f}x.onnx", f, _HALO, _CELLS, clean=f"vellum-standard-{f}x.onnx") for f in (2, 3, 4)
    ),
    own_values=("noise", "blocks", "codec"),
    cleans=True,
    tile_px=TILE_PX * 3 // 4,  # what the wide blocks start from is kept until the cells have been worked on
)
