"""Steps that save a picture and open it again: JPEG in its ways, WebP, AVIF, frames of video."""

from __future__ import annotations

import io
from fractions import Fraction

import av
import numpy as np
from PIL import Image

from training.unlisted.step import Apply, Encode, Levels, Step, eight_bits


def opened(file: bytes) -> Levels:
    """Levels of a picture file."""
    return np.asarray(Image.open(io.BytesIO(file)).convert("RGB"), np.float32)


def written(levels: Levels, form: str, **options: object) -> bytes:
    """The file that Pillow writes."""
    file = io.BytesIO()
    Image.fromarray(eight_bits(levels)).save(file, form, **options)
    return file.getvalue()


def _saving(kind: str, weight: float, encode: Encode) -> Step:
    def save(levels: Levels, random: np.random.Generator) -> tuple[Levels, str]:
        file, detail = encode(levels, random)
        return opened(file), detail

    return Step(kind, save, weight, encode)


def jpeg(subsampling: int, lowest: int = 25, highest: int = 96) -> Encode:
    """Saves as JPEG; ``subsampling`` is Pillow's number."""

    def encode(levels: Levels, random: np.random.Generator) -> tuple[bytes, str]:
        quality = int(random.integers(lowest, highest + 1))
        return written(levels, "JPEG", quality=quality, subsampling=subsampling), f"quality {quality}"

    return encode


def _jpeg_shifted(levels: Levels, random: np.random.Generator) -> tuple[Levels, str]:
    quality, (down, right) = int(random.integers(25, 97)), random.integers(0, 8, 2)
    padded = np.pad(levels, ((down, 0), (right, 0), (0, 0)), mode="edge")
    saved = opened(written(padded, "JPEG", quality=quality))
    return saved[down:, right:], f"quality {quality}, grid at {right}, {down}"


def _webp(levels: Levels, random: np.random.Generator) -> tuple[bytes, str]:
    quality = int(random.integers(25, 95))
    return written(levels, "WEBP", quality=quality, method=2), f"quality {quality}"


def _avif(levels: Levels, random: np.random.Generator) -> tuple[bytes, str]:
    quality = int(random.integers(30, 90))
    return written(levels, "AVIF", quality=quality, speed=9), f"quality {quality}"


def _video(codec: str, lowest: int, highest: int) -> Apply:
    def save(levels: Levels, random: np.random.Generator) -> tuple[Levels, str]:
        crf = int(random.integers(lowest, highest + 1))
        frame = int(random.integers(0, 4))
        return video_frame(levels, codec, crf, frame, random), f"crf {crf}, frame {frame}"

    return save


def video_frame(levels: Levels, codec: str, crf: int, frame: int, random: np.random.Generator) -> Levels:
    """A frame of a short film in which the picture drifts by whole pixels and comes to rest at that frame.

    Parameters
    ----------
    codec : name of PyAV's encoder
    crf : constant rate factor
    frame : number of the frame that is taken, 0 for the first, which nothing is predicted for
    """
    height, width = levels.shape[:2]
    padded_size = (height + height % 2, width + width % 2)
    step = random.integers(-3, 4, 2)
    file = io.BytesIO()
    with av.open(file, "w", format="matroska") as out:
        options = {"crf": str(crf), "preset": "veryfast"}
        if codec == "libx265":
            options["x265-params"] = "log-level=none:pools=none:frame-threads=1"
        stream = out.add_stream(codec, rate=Fraction(25), options=options)
        stream.height, stream.width, stream.pix_fmt, stream.thread_count = *padded_size, "yuv420p", 1
        padded = np.pad(eight_bits(levels), ((0, height % 2), (0, width % 2), (0, 0)), mode="edge")
        for number in range(frame + 1):
            moved = np.roll(padded, tuple((frame - number) * step), axis=(0, 1))
            for packet in stream.encode(av.VideoFrame.from_ndarray(np.ascontiguousarray(moved), format="rgb24")):
                out.mux(packet)
        for packet in stream.encode():
            out.mux(packet)
    file.seek(0)
    with av.open(file) as film:
        *_, last = film.decode(video=0)
        return last.to_ndarray(format="rgb24")[:height, :width].astype(np.float32)


CODECS = (
    _saving("JPEG 4:2:0", 3.0, jpeg(2)),
    _saving("JPEG 4:2:2", 1.0, jpeg(1)),
    _saving("JPEG 4:4:4", 1.0, jpeg(0)),
    Step("JPEG, grid shifted", _jpeg_shifted),
    _saving("WebP", 1.0, _webp),
    _saving("AVIF", 0.7, _avif),
    Step("H.264", _video("libx264", 18, 30)),
    Step("HEVC", _video("libx265", 20, 32)),
)
