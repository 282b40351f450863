"""Measures small lettering at 4x: decibels, and how much of it a text recogniser then reads wrongly."""

from __future__ import annotations

import io
import subprocess
import tempfile
from collections.abc import Iterator
from difflib import SequenceMatcher
from pathlib import Path

import numpy as np
from PIL import Image, ImageDraw, ImageFont

from training.heldout import luma_psnr
from training.history import History
from training.real import damaged_file, enlarged_by, written
from training.second import second_faces
from wamplex.core.analysis.suggestion.suggestion import measure_and_suggest
from wamplex.core.model.upscale_values import Values
from wamplex.core.trial.registry import find_upscaler

# The beginning of "Alice's Adventures in Wonderland" (Lewis Carroll 1865, public domain), from memory: no
# training page has words of it.
_TEXT = (
    "Alice was beginning to get very tired of sitting by her sister on the bank, and of having nothing to "
    "do: once or twice she had peeped into the book her sister was reading, but it had no pictures or "
    "conversations in it. So she was considering in her own mind, as well as she could, for the hot day "
    "made her feel very sleepy and stupid, whether the pleasure of making a daisy chain would be worth "
    "the trouble of getting up and picking the daisies, when suddenly a White Rabbit with pink eyes ran "
    "close by her."
)
_FACTOR = 4
_PAGE_PX = 1200
_HEIGHTS_PX = (3, 4, 5, 6)  # of a small x in the source
_FACES = ("OpenSans-Regular.ttf", "JunicodeTwoBeta-Regular.otf")
DAMAGES = {
    "clean": History(),
    "soft 0.6 px": History(blur_px=0.6),
    "JPEG 75": History(codec="jpeg", quality=75),
}


_HEAD = """# Small lettering, measured

Made by `python -m training letters`, which needs Tesseract. A page of prose in Open Sans and Junicode,
on which no network was trained, shrunk and damaged so that a small x is 3 to 6 pixels high, and enlarged four
times with the suggested values of each upscaler. The table shows the share of letters that a text recogniser
(Tesseract 5, Smith 2007) does not read, and luma PSNR relative to bicubic in dB; means of both typefaces.
*Truth*: the page before shrinking.
"""


def write_letter_tables(work: Path, out: Path) -> None:
    """Write the table as Markdown."""
    out.write_text("\n".join([_HEAD, *letter_tables(work)]) + "\n")


def letter_tables(work: Path) -> Iterator[str]:
    """Lines of Markdown: one row for a height and an upscaler, with the truth as the last one."""
    yield "| x-height, upscaler | " + " | ".join(DAMAGES) + " |\n" + "|---" * (len(DAMAGES) + 1) + "|"
    faces = [path for path in second_faces(work) if path.name in _FACES]
    for x_px in _HEIGHTS_PX:
        pages = [_page(face, _FACTOR * x_px) for face in faces]
        rows: dict[str, list[str]] = {"bicubic": [], "vellum": [], "burin": [], "truth": []}
        for history in DAMAGES.values():
            results: dict[str, list[tuple[float, float]]] = {key: [] for key in rows}
            for number, page in enumerate(pages):
                for key, result in _results(page, history, number).items():
                    results[key].append(result)
            for key, found in results.items():
                gain, wrong = np.mean(found, axis=0)
                rows[key].append(f"{100 * wrong:.0f} %" + (f", {gain:+.2f} dB" if key != "truth" else ""))
        for key, cells in rows.items():
            yield f"| {x_px} px, {key} | {' | '.join(cells)} |"


def _results(page: np.ndarray, history: History, number: int) -> dict[str, tuple[float, float]]:
    """Decibels over bicubic, and the share of letters read wrongly, of each upscaler and of the truth."""
    with tempfile.TemporaryDirectory() as folder:
        truth, small = damaged_file(page, _FACTOR, history, Path(folder), number)
        suggested = measure_and_suggest(small)
    made = {"bicubic": written(enlarged_by(small, truth, "bicubic", Values()))}
    for key in ("vellum", "burin"):
        values = suggested.values_for(key, find_upscaler(key).values)
        made[key] = written(enlarged_by(small, truth, key, values))
    base = luma_psnr(made["bicubic"], truth, _FACTOR)
    found = {k: (luma_psnr(p, truth, _FACTOR) - base, misread(p)) for k, p in made.items()}
    return found | {"truth": (0.0, misread(truth))}


def _page(face: Path, x_px: int) -> np.ndarray:
    """The text in black on white, lines as wide as the page, its small x so many pixels high."""
    size = next(s for s in range(8, 200) if _x_height(face, s) >= x_px)
    font = ImageFont.truetype(str(face), size)
    lines, line = [], ""
    for word in _TEXT.split():
        longer = f"{line} {word}".strip()
        if font.getlength(longer) > _PAGE_PX - 4 * x_px:
            lines.append(line)
            longer = word
        line = longer
    lines.append(line)
    image = Image.new("RGB", (_PAGE_PX, int((len(lines) + 1.5) * 1.5 * size) // 8 * 8), "white")
    draw = ImageDraw.Draw(image)
    for number, words in enumerate(lines):
        draw.text((2 * x_px, (0.5 + 1.5 * number) * size), words, fill="black", font=font)
    return np.asarray(image)


def _x_height(face: Path, size: int) -> int:
    box = ImageFont.truetype(str(face), size).getbbox("x")
    return int(box[3] - box[1])


def misread(pixels: np.ndarray) -> float:
    """Share of the text's letters that Tesseract (Smith 2007) does not read, after a plain doubling."""
    height, width = pixels.shape[:2]
    larger = Image.fromarray(pixels).resize((2 * width, 2 * height), Image.Resampling.BICUBIC)
    file = io.BytesIO()
    larger.save(file, "PNG")
    command = ["tesseract", "stdin", "stdout", "--psm", "6", "-l", "eng"]
    read = subprocess.run(command, input=file.getvalue(), capture_output=True, check=True).stdout.decode()
    wanted, got = _TEXT.split(), read.split()
    matcher = SequenceMatcher(None, " ".join(wanted), " ".join(got), autojunk=False)
    return 1 - sum(block.size for block in matcher.get_matching_blocks()) / len(" ".join(wanted))
