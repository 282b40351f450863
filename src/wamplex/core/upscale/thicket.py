"""Thicket: adds plausible texture; Invention says how much."""

from __future__ import annotations

from wamplex.core.upscale.learned import Learned, Network
from wamplex.core.upscale.vellum import STANDARD_HALO

# One more than Vellum, for the two convolutions after the pixel shuffle.
_HALO = STANDARD_HALO + 1

THICKET = Learned(
    key="thicket",
    name="Thicket",
    purpose="Learned and inventing: hair, grass, bark, cloth, where plausible texture may stand for true.",
    networks=tuple(
        Network(f"vellum-standard-{f}x.onnx", f, _HALO, toward=f"thicket-{f}x.onnx") for f in (2, 4)
    ),
    own_values=("invention",),
)
