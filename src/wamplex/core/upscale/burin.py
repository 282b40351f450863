"""Burin: for drawings, lettering, flat graphics and line work."""

from __future__ import annotations

from wamplex.core.upscale.learned import Learned, Network
from wamplex.core.upscale.vellum import STANDARD_HALO

# Two more blocks, of two convolutions each that reach two pixels far.
_HALO = STANDARD_HALO + 8

BURIN = Learned(
    key="burin",
    name="Burin",
    purpose="Learned, for drawings: lettering, flat graphics, line work, painted art.",
    networks=tuple(
        Network(f"burin-mending-{f}x.onnx", f, _HALO, clean=f"burin-{f}x.onnx") for f in (2, 3, 4)
    ),
    own_values=("noise", "blocks", "codec"),
    cleans=True,
)
