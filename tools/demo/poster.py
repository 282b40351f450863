"""A linocut poster with lettering: ink, gouge marks and paper."""

from __future__ import annotations

from pathlib import Path

import numpy as np
from PIL import Image, ImageDraw, ImageFont
from scipy.ndimage import gaussian_filter, map_coordinates

SIZE = (2080, 3040)
_FONT = Path(__file__).parents[2] / "src" / "wamplex" / "fonts" / "SourceSerif4-600.ttf"
_INK, _RED, _PAPER = np.array([27, 34, 38]), np.array([171, 45, 32]), np.array([238, 229, 208])


def draw() -> Image.Image:
    """The poster at full size."""
    random = np.random.default_rng(86)
    ink, red = _key_block(random), _red_block()
    ink, red = _printed(ink, random, 0.0), _printed(red, random, 3.0)
    paper = _PAPER * (1 + 0.018 * gaussian_filter(random.normal(size=SIZE[::-1]), 1.5)[..., None] * 4)
    out = paper * (1 - red[..., None]) + _RED * red[..., None]
    out = out * (1 - ink[..., None]) + _INK * ink[..., None]
    return Image.fromarray(np.clip(np.rint(out), 0, 255).astype(np.uint8))


def _blank() -> tuple[Image.Image, ImageDraw.ImageDraw]:
    block = Image.new("L", SIZE, 0)
    return block, ImageDraw.Draw(block)


def _text(pen: ImageDraw.ImageDraw, y: int, words: str, size: int, fill: int, spacing: int = 0) -> None:
    font = ImageFont.truetype(str(_FONT), size)
    widths = [pen.textlength(letter, font=font) + spacing for letter in words]
    x = (SIZE[0] - sum(widths) + spacing) / 2
    for letter, width in zip(words, widths, strict=True):
        pen.text((x, y), letter, font=font, fill=fill)
        x += width


def _red_block() -> np.ndarray:
    block, pen = _blank()
    pen.ellipse((500, 760, 1580, 1840), fill=255)
    pen.rectangle((130, 2480, SIZE[0] - 130, 2700), fill=255)
    _text(pen, 2500, "FORTY YEARS", 150, 0, 26)
    return np.asarray(block) / 255.0


def _key_block(random: np.random.Generator) -> np.ndarray:
    block, pen = _blank()
    pen.rectangle((60, 60, SIZE[0] - 60, SIZE[1] - 60), outline=255, width=26)
    pen.rectangle((130, 560, SIZE[0] - 130, 2420), fill=255)
    pen.ellipse((470, 730, 1610, 1870), fill=0)
    _rays(pen, random)
    _puppet(pen)
    _gouges(pen, random)
    _text(pen, 150, "HOLLOWMERE", 226, 255, 8)
    _text(pen, 408, "PUPPET THEATRE", 118, 255, 30)
    _text(pen, 2722, "1986 – 2026", 112, 255, 16)
    _text(pen, 2850, "every Saturday at three, the mill by the lake", 62, 255, 2)
    return np.asarray(block) / 255.0


def _rays(pen: ImageDraw.ImageDraw, random: np.random.Generator) -> None:
    cx, cy = 1040, 1300
    for angle in np.linspace(0, 2 * np.pi, 84, endpoint=False):
        angle += random.normal(0, 0.006)
        near, far = 640 + random.uniform(0, 40), random.uniform(880, 1320)
        side = np.array([-np.sin(angle), np.cos(angle)])
        along = np.array([np.cos(angle), np.sin(angle)])
        start, end = np.array([cx, cy]) + near * along, np.array([cx, cy]) + far * along
        wide = random.uniform(7, 13)
        corners = [
            start - 3 * side,
            (start + end) / 2 - wide * side,
            end,
            (start + end) / 2 + wide * side,
            start + 3 * side,
        ]
        inside = [(float(np.clip(x, 140, SIZE[0] - 140)), float(np.clip(y, 570, 2410))) for x, y in corners]
        pen.polygon(inside, fill=0)


def _puppet(pen: ImageDraw.ImageDraw) -> None:
    """A marionette in silhouette with cut details, hanging from its cross."""
    pen.polygon(((700, 640), (1380, 700), (1376, 742), (696, 684)), fill=0)
    pen.polygon(((1010, 590), (1056, 590), (1075, 800), (1030, 800)), fill=0)
    for x0, y0, x1, y1 in ((1040, 740, 1040, 960), (740, 680, 640, 1560), (1340, 720, 1450, 1370)):
        pen.line((x0, y0, x1, y1), fill=0 if y0 < 700 else 255, width=9)
        pen.line((x0 + 8, y0, x1 + 8, y1), fill=255, width=5)
    pen.ellipse((880, 950, 1200, 1330), fill=255)
    pen.polygon(((1180, 1110), (1330, 1190), (1180, 1210)), fill=255)
    for k in range(-7, 8):
        pen.line((1010 + 14 * k, 1000, 985 + 34 * k, 905 + abs(k) * 17), fill=255, width=15)
    # A line cut free around everything that stands on the dark ground.
    pen.polygon(((950, 1290), (1130, 1290), (1424, 2178), (656, 2178)), fill=0)
    for x0, x1 in ((900, 880), (1180, 1210)):
        pen.line((x0, 2130, x1, 2350), fill=0, width=100)
        pen.ellipse((x1 - 115, 2262, x1 + 115, 2405), fill=0)
    pen.polygon(((960, 1300), (1120, 1300), (1390, 2150), (690, 2150)), fill=255)
    pen.line((990, 1420, 640, 1570), fill=255, width=84)
    pen.line((1090, 1420, 1450, 1380), fill=255, width=84)
    pen.ellipse((575, 1510, 705, 1640), fill=255)
    pen.ellipse((1400, 1310, 1530, 1440), fill=255)
    pen.line((900, 2130, 880, 2330), fill=255, width=52)
    pen.line((1180, 2130, 1210, 2330), fill=255, width=52)
    pen.pieslice((790, 2285, 960, 2400), 180, 360, fill=255)
    pen.pieslice((1130, 2285, 1300, 2400), 180, 360, fill=255)
    pen.ellipse((1075, 1070, 1155, 1130), fill=0)
    pen.ellipse((1105, 1082, 1140, 1118), fill=255)
    pen.arc((1020, 1150, 1200, 1280), 20, 110, fill=0, width=14)
    pen.arc((1060, 1020, 1180, 1110), 200, 310, fill=0, width=14)
    for i in range(9):
        y = 1420 + i * 80
        half = 60 + (y - 1300) * 0.33
        for k in range(-4 - i // 3, 5 + i // 3):
            x = 1040 + k * 62 + (i % 2) * 31
            if abs(x - 1040) < half - 20:
                pen.polygon(((x, y - 22), (x + 15, y), (x, y + 22), (x - 15, y)), fill=0)
    for k in range(-6, 7):
        pen.line((1040 + k * 18, 1330, 1040 + k * 52, 2140), fill=0, width=6)


def _gouges(pen: ImageDraw.ImageDraw, random: np.random.Generator) -> None:
    """Marks the gouge leaves in the dark ground, and ridges it leaves in the cleared one."""
    for _ in range(1500):
        x, y = random.uniform(160, SIZE[0] - 160), random.uniform(590, 2390)
        distance = np.hypot(x - 1040, y - 1300)
        if distance < 760:
            continue
        angle = np.arctan2(y - 1300, x - 1040) + np.pi / 2 + random.normal(0, 0.12)
        length = random.uniform(22, 64)
        dx, dy = length * np.cos(angle), length * np.sin(angle)
        pen.line((x, y, x + dx, y + dy), fill=0, width=int(random.integers(4, 10)))
    for _ in range(150):
        angle, distance = random.uniform(0, 2 * np.pi), random.uniform(420, 560)
        x, y = 1040 + distance * np.cos(angle), 1300 + distance * np.sin(angle)
        turn = angle + np.pi / 2
        pen.line((x, y, x + 34 * np.cos(turn), y + 34 * np.sin(turn)), fill=255, width=5)


def _printed(block: np.ndarray, random: np.random.Generator, shift: float) -> np.ndarray:
    """What comes off the press: wavering edges, ink that did not take everywhere."""
    rows, columns = np.mgrid[0 : SIZE[1], 0 : SIZE[0]].astype(float)
    for axis in (rows, columns):
        axis += 2.2 * gaussian_filter(random.normal(size=block.shape), 5) * 12 + shift
    moved = map_coordinates(gaussian_filter(block, 1.0), [rows, columns], order=1, mode="nearest")
    edge = np.clip((moved - 0.5) * 2.6 + 0.5, 0, 1)
    take = gaussian_filter(random.normal(size=block.shape), 1.6) * 4.5
    worn = np.clip(1.25 - 0.55 * np.clip(take - 0.55, 0, 2), 0, 1)
    return edge * worn * 0.97
