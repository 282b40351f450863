"""Burin: for drawings, lettering, flat graphics and line work."""

from __future__ import annotations

from wamplex.core.upscale.learned import Learned, Network
from wamplex.core.upscale.vellum import WIDE_HALO

BURIN = Learned(
    key="burin",
    name="Burin",
    purpose="Learned, for drawings: lettering, flat graphics, line work, painted art.",
    networks=tuple(Network(f"burin-{f}x.onnx", f, WIDE_HALO) for f in (2, 3, 4)),
)
