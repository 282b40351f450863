"""Values that the command line prints as JSON."""

from __future__ import annotations

from typing import Any

from wamplex.core.colour.icc import profile_words
from wamplex.core.deliver.deliver import Delivered
from wamplex.core.intake.probe import Probe
from wamplex.core.upscale.interface import Upscaler


def probe_values(found: Probe) -> dict[str, Any]:
    """What is known of a picture file."""
    return {
        "path": str(found.path),
        "kind": found.kind,
        "width": found.width,
        "height": found.height,
        "megapixels": round(found.width * found.height / 1e6, 3),
        "depth": found.depth,
        "colour": found.colour,
        "alpha": found.alpha,
        "density_ppi": found.density_ppi,
        "profile": profile_words(found.profile),
        "pages": found.pages,
        "bytes": found.file_bytes,
    }


def upscaler_values(upscaler: Upscaler) -> dict[str, Any]:
    """What is known of an upscaler."""
    return {"key": upscaler.key, "name": upscaler.name, "kind": upscaler.kind, "purpose": upscaler.purpose}


def delivered_values(source: str, done: Delivered) -> dict[str, Any]:
    """What was written."""
    check = done.check
    return {
        "source": source,
        "path": str(done.path),
        "width": check.width,
        "height": check.height,
        "depth": check.depth,
        "density_ppi": check.density_ppi,
        "profile": check.profile,
        "profile_kept": check.profile_kept,
        "bytes": check.file_bytes,
        "pixels_equal": check.pixels_equal,
        "seconds": round(done.seconds, 2),
    }
