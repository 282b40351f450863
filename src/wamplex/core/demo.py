"""Where the demo pictures are."""

from __future__ import annotations

from pathlib import Path

from wamplex.core.base.resources import DEMO_DIR


def demo_pictures() -> list[Path]:
    """The six pictures of the made-up Hollowmere Puppet Theatre, in the order of their names."""
    if not DEMO_DIR.is_dir():
        return []
    return sorted(p for p in DEMO_DIR.iterdir() if p.suffix in (".jpg", ".png", ".dng"))
