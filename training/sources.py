"""The open picture packages the networks learn from, by registry, name and version."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal


@dataclass(frozen=True)
class Source:
    """One registry package and the pictures taken from it.

    Attributes
    ----------
    registry : "debian" or "npm"
    name, version : package identity in that registry
    patterns : glob patterns below the unpacked package
    exclude : name fragments of pictures that were looked at and rejected
    shrink : least linear reduction before use, so that the files' own compression is gone
    """

    registry: Literal["debian", "npm"]
    name: str
    version: str
    patterns: tuple[str, ...]
    exclude: tuple[str, ...] = ()
    shrink: float = 2.0


SOURCES: tuple[Source, ...] = (
    Source("debian", "lomiri-wallpapers-16.04", "20.04.0-2", ("usr/share/backgrounds/*.jpg",)),
    Source("debian", "lomiri-wallpapers-20.04", "20.04.0-2", ("usr/share/backgrounds/*.jpg",)),
    Source(
        "debian",
        "plasma-workspace-wallpapers",
        "4:5.27.5-2",
        ("usr/share/wallpapers/*/contents/images/[2-5]*.*",),
        exclude=("Elarun", "FlyingKonqui", "Grey", "ColdRipple"),
    ),
    Source("debian", "mate-backgrounds", "1.26.0-1", ("usr/share/backgrounds/mate/nature/*.jpg",)),
    Source(
        "debian",
        "endless-sky-data",
        "0.9.8-1.2",
        ("usr/share/games/endless-sky/images/land/*.jpg",),
        shrink=1.5,
    ),
    Source(
        "debian",
        "tuxpaint-stamps-default",
        "2022.06.04-1",
        ("usr/share/tuxpaint/stamps/**/*.png",),
        shrink=1.0,
    ),
    Source(
        "npm",
        "soft-ui-design-system",
        "1.0.4",
        ("package/assets/img/*.jpg", "package/assets/img/curved-images/*.jpg"),
        shrink=1.6,
    ),
    Source(
        "npm",
        "material-kit",
        "2.0.4",
        ("package/assets/img/*.jpg", "package/assets/img/examples/*.jpg"),
        shrink=1.5,
    ),
    Source("npm", "startbootstrap-creative", "7.0.7", ("package/dist/assets/img/**/*.jpg",), shrink=1.6),
    Source("npm", "admin-lte", "3.2.0", ("package/dist/img/photo*.*",), shrink=1.5),
)
