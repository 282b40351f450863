"""Draws marks where pages overlap."""

from __future__ import annotations

from wamplex.core.base.window import Window
from wamplex.core.deliver.request.samples import Samples
from wamplex.core.geometry.pages import Page
from wamplex.core.geometry.size import MM_PER_INCH

_LENGTH_MM, _WIDTH_MM = 6.0, 0.3


def draw_marks(samples: Samples, band: Window, page: Page, density_ppi: float, channels: int) -> None:
    """Draw the marks that fall into a band of a page, in place.

    Short black lines with a white edge that begins where the next page does, at both ends of that line. They
    lie in the overlap, so that the next page covers them.

    Parameters
    ----------
    samples : (h, w, C) of the band
    band : where the band lies in the page
    channels : of colour; alpha after them becomes opaque
    """
    length = round(_LENGTH_MM / MM_PER_INCH * density_ppi)
    thick = max(1, round(_WIDTH_MM / MM_PER_INCH * density_ppi))
    wide, high = page.window.width, page.window.height
    maximum = 65535 if samples.dtype.itemsize == 2 else 255
    lines = []
    if page.overlap_px[0]:
        x = wide - page.overlap_px[0] + thick
        lines += [Window(x, y, thick, length) for y in (0, high - length)]
    if page.overlap_px[1]:
        y = high - page.overlap_px[1] + thick
        lines += [Window(x, y, length, thick) for x in (0, wide - length)]
    for line in lines:
        for grown, value in ((thick, maximum), (0, 0)):
            box = line.grown(grown, wide, high)
            top, bottom = max(box.y, band.y), min(box.bottom, band.bottom)
            if top < bottom:
                part = samples[top - band.y : bottom - band.y, box.x : box.right]
                part[..., :channels] = value
                part[..., channels:] = maximum
