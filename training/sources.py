"""The open picture packages the networks learn from, by registry, name and version."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

Collection = Literal[
    "photographs",
    "portraits",
    "paintings",
    "drawings",
    "faces",
    "held-out photographs",
    "held-out faces",
    "second photographs",
    "second drawings",
    "second faces",
]


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
    collection : what it is used for; "faces" are typefaces that lettering is set in, "portraits" small
        pictures of a face each; what is held out is measured on, and the second set has only been measured on
        since the networks of before it
    """

    registry: Literal["debian", "npm"]
    name: str
    version: str
    patterns: tuple[str, ...]
    exclude: tuple[str, ...] = ()
    shrink: float = 2.0
    collection: Collection = "photographs"


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
    Source(
        "npm",
        "paper-kit-2",
        "2.1.0",
        ("package/assets/img/*.jpg", "package/assets/img/faces/*.jpg"),
        exclude=("placeholder",),
        shrink=1.5,
    ),
    Source(
        "npm",
        "startbootstrap-agency",
        "7.0.12",
        ("package/dist/assets/img/header-bg.jpg", "package/dist/assets/img/team/*.jpg"),
        shrink=1.5,
    ),
    Source("npm", "startbootstrap-grayscale", "7.0.6", ("package/dist/assets/img/bg-*.jpg",), shrink=1.5),
    Source("npm", "startbootstrap-landing-page", "6.0.6", ("package/dist/assets/img/*.jpg",), shrink=1.5),
    Source("npm", "startbootstrap-creative", "7.0.7", ("package/dist/assets/img/**/*.jpg",), shrink=1.6),
    Source(
        "npm",
        "@tabler/preview",
        "1.2.0",
        ("package/dist/static/photos/*.jpg",),
        exclude=("netflix", "-2.jpg", "-3.jpg", "-4.jpg", "-5.jpg"),
        shrink=1.5,
    ),
    Source(
        "npm",
        "@tabler/preview",
        "1.2.0",
        ("package/dist/static/avatars/*.jpg",),
        shrink=1.5,
        collection="portraits",
    ),
    Source(
        "npm",
        "tabler-ui",
        "0.0.34",
        ("package/dist/demo/faces/*/*.jpg",),
        shrink=1.15,
        collection="portraits",
    ),
    Source("npm", "admin-lte", "3.2.0", ("package/dist/img/photo*.*",), shrink=1.5),
    Source(
        "debian",
        "wesnoth-1.16-data",
        "1:1.16.9-1",
        ("usr/share/games/wesnoth/1.16/data/core/images/portraits/**/*.png",),
        shrink=1.0,
        collection="paintings",
    ),
    Source(
        "debian",
        "openclipart-svg",
        "1:0.18+dfsg-19",
        ("usr/share/openclipart/svg/**/*.svg",),
        collection="drawings",
    ),
    *(
        Source("debian", name, version, ("usr/share/fonts/**/*.[ot]tf",), collection="faces")
        for name, version in (
            ("fonts-dejavu-core", "2.37-6"),
            ("fonts-liberation", "1:1.07.4-11"),
            ("fonts-linuxlibertine", "5.3.0-6"),
            ("fonts-ebgaramond", "0.016+git20210310.42d4f9f2-1"),
            ("fonts-comic-neue", "2.51-4"),
            ("fonts-inconsolata", "001.010-6"),
            ("fonts-lobster", "2.0-2.1"),
            ("fonts-oldstandard", "2.2really-4"),
            ("fonts-roboto-slab", "1.100263+20170512-2"),
            ("fonts-quicksand", "0.2016-2.1"),
            ("fonts-play", "1.002+20150307.1-0.1"),
            ("fonts-breip", "1:0.5.1-3"),
            ("fonts-lato", "2.0-2.1"),
            ("fonts-cabin", "1.5-3"),
            ("fonts-crosextra-carlito", "20220224-1"),
            ("fonts-crosextra-caladea", "20200211-1"),
            ("fonts-hack", "3.003-3"),
            ("fonts-gfs-didot", "1.1-7"),
        )
    ),
    Source(
        "debian",
        "fonts-cantarell",
        "0.303.1-1",
        ("usr/share/fonts/**/*.otf",),
        collection="held-out faces",
    ),
    Source(
        "debian",
        "fonts-vollkorn",
        "4.105-2",
        ("usr/share/fonts/**/*.[ot]tf",),
        collection="held-out faces",
    ),
    Source(
        "debian",
        "opencv-doc",
        "4.6.0+dfsg-12",
        ("usr/share/doc/opencv-doc/examples/data/*.*",),
        collection="held-out photographs",
    ),
    Source(
        "npm",
        "material-dashboard",
        "3.1.0",
        tuple(
            f"package/assets/img/{name}.jpg"
            for name in (
                "bg-smart-home-1",
                "home-decor-1",
                "home-decor-2",
                "home-decor-3",
                "ivancik",
                "kal-visuals-square",
                "marie",
                "products/product-1-min",
                "products/product-3-min",
                "products/product-6-min",
                "products/product-details-1",
                "products/product-details-3",
                "team-1",
                "team-2",
            )
        ),
        shrink=1.5,
        collection="second photographs",
    ),
    Source(
        "npm",
        "argon-design-system-free",
        "1.2.0",
        (
            "package/assets/img/faces/a*.jpg",
            "package/assets/img/faces/fezbot.jpg",
            "package/assets/img/faces/team-[1-4].jpg",
            "package/assets/img/pages/mohamed.jpg",
            "package/assets/img/theme/img-*.jpg",
        ),
        shrink=1.5,
        collection="second photographs",
    ),
    Source(
        "debian",
        "kdegames-card-data-kf5",
        "4:22.12.3-1",
        tuple(
            f"usr/share/carddecks/svg-{folder}/*.svgz"
            for folder in (
                "ancient-egyptians",
                "dondorf",
                "nicu-ornamental",
                "oxygen-air",
                "penguins",
                "xskat-german",
            )
        ),
        collection="second drawings",
    ),
    Source("debian", "fonts-open-sans", "1.11-2", ("usr/share/fonts/**/*.ttf",), collection="second faces"),
    Source(
        "debian",
        "fonts-junicode",
        "2+git20230104+ds-1",
        ("usr/share/fonts/**/*.[ot]tf",),
        collection="second faces",
    ),
)
