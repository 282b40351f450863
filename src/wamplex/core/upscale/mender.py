"""Mender: removes noise and repairs compression while it enlarges."""

from __future__ import annotations

from wamplex.core.upscale.learned import Learned, Network
from wamplex.core.upscale.vellum import WIDE_HALO

MENDER = Learned(
    key="mender",
    name="Mender",
    purpose="Learned, with cleanup: for compressed, noisy, soft or old pictures.",
    networks=tuple(
        Network(f"mender-{f}x.onnx", f, WIDE_HALO, clean=f"vellum-standard-{f}x.onnx") for f in (2, 3, 4)
    ),
    own_values=("noise", "blocks"),
    cleans=True,
)
