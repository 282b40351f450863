"""The formats that files are written in, each described once: labels, suffixes, depths and limits come from here."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

FileFormat = Literal["tiff", "png", "jpeg", "webp", "dng", "pdf"]
# ITU-T T.81: 16-bit counts of lines and samples, of which 65,535 is the largest.
JPEG_SIDE_PX = 65_535
# PNG (ISO/IEC 15948) allows 2^31 - 1; libpng, which reads our files back, stops at 1,000,000.
PNG_SIDE_PX = 1_000_000
# RFC 9649, 3.4: 14 bits for each side.
WEBP_SIDE_PX = 16_384


@dataclass(frozen=True)
class FormatInfo:
    """What a format can hold.

    Attributes
    ----------
    label, tooltip : in the window
    suffixes : the usual one first; a file may be given any of them
    depths : bits per channel that can be chosen; the only one where there is no choice
    max_side_px : None where nothing that is rendered comes near the limit
    cmyk : whether it can be separated for a CMYK printer
    alpha : whether it holds transparency
    """

    label: str
    tooltip: str
    suffixes: tuple[str, ...]
    depths: tuple[Literal[8, 16], ...]
    max_side_px: int | None = None
    cmyk: bool = False
    alpha: bool = True

    @property
    def suffix(self) -> str:
        """The usual suffix."""
        return self.suffixes[0]

    def depth(self, chosen: Literal[8, 16]) -> Literal[8, 16]:
        """Bits per channel of the file.

        Parameters
        ----------
        chosen : counts where the format offers a choice
        """
        return chosen if chosen in self.depths else self.depths[0]


FILE_FORMATS: dict[FileFormat, FormatInfo] = {
    "tiff": FormatInfo("TIFF", "For print shops: 8 or 16 bits, lossless", (".tif", ".tiff"), (8, 16), cmyk=True),
    "png": FormatInfo("PNG", "8 or 16 bits, lossless, opens everywhere", (".png",), (8, 16), PNG_SIDE_PX),
    "jpeg": FormatInfo("JPEG", "Small files; lossy", (".jpg", ".jpeg"), (8,), JPEG_SIDE_PX, alpha=False),
    "webp": FormatInfo("WebP", "8 bits, lossless, small", (".webp",), (8,), WEBP_SIDE_PX - 1),
    "pdf": FormatInfo(
        "PDF", "A page of exactly the print's size, with trim and bleed", (".pdf",), (8, 16), cmyk=True, alpha=False
    ),
    "dng": FormatInfo("DNG", "Linear light in 16 bits, for developing elsewhere", (".dng",), (16,), alpha=False),
}


def format_of_suffix(suffix: str) -> FileFormat | None:
    """Find the format of a suffix, in upper or lower case.

    Parameters
    ----------
    suffix : with its dot

    Returns
    -------
    Key of the format; None where Wamplex does not write it.
    """
    return next((key for key, info in FILE_FORMATS.items() if suffix.lower() in info.suffixes), None)
