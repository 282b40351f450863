"""The condition of a picture: everything that is measured of it, one measurement after the other."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np

from wamplex.core.analysis.compression.double_jpeg import detect_earlier_quality
from wamplex.core.analysis.compression.file_compression import FileCompression, read_compression
from wamplex.core.analysis.compression.jpeg_blocks import estimate_compression
from wamplex.core.analysis.compression.jpeg_noise import estimate_noise_behind_jpeg
from wamplex.core.analysis.content.borders import find_borders
from wamplex.core.analysis.content.clipping import Clipping, measure_clipping
from wamplex.core.analysis.content.content_type import ContentKind, ContentType, classify_content
from wamplex.core.analysis.content.palette import Palette, measure_palette
from wamplex.core.analysis.content.spots import Spot, find_spots
from wamplex.core.analysis.content.stated_generator import stated_generator
from wamplex.core.analysis.content.subject import SubjectAreas, find_areas
from wamplex.core.analysis.degradation.degradation_estimator import (
    KINDS,
    DegradationEstimate,
    ReadKind,
    estimate_degradation,
)
from wamplex.core.analysis.degradation.drawing_blur import estimate_drawing_blur
from wamplex.core.analysis.degradation.earlier_enlargement import (
    EarlierEnlargement,
    detect_earlier_enlargement,
)
from wamplex.core.analysis.degradation.edge_blur import EdgeBlur, estimate_edge_blur
from wamplex.core.analysis.degradation.motion_blur import MotionBlur, estimate_motion_blur
from wamplex.core.analysis.degradation.noise_level import NoiseLevel, measure_noise
from wamplex.core.analysis.faces.detection import find_faces
from wamplex.core.analysis.faces.face import Face
from wamplex.core.analysis.report.own_origin import OwnOrigin, read_own_origin
from wamplex.core.analysis.report.sensor_exposure import SensorExposure, measure_sensor_exposure
from wamplex.core.analysis.sample import Sample
from wamplex.core.base.progress import Progress
from wamplex.core.base.window import Window
from wamplex.core.model.picture import Picture

Measurement = Literal[
    "made by",
    "sensor",
    "compression",
    "palette",
    "read",
    "noise",
    "blur",
    "enlarged",
    "clipping",
    "medium",
    "faces",
    "subject",
    "borders",
    "spots",
]
# What the enlargement of a picture hangs on.
UPSCALING_ROWS: tuple[Measurement, ...] = (
    "sensor",
    "compression",
    "palette",
    "read",
    "noise",
    "blur",
    "enlarged",
    "medium",
)
# A second, worse save shows only when its quality was lower than the last one's by more than this.
_CLEARLY_LOWER = 8


# Above this relative difference, neither estimate overrides the other.
_MOST_CHANGE = 0.3
# With less than this, in 8-bit levels, the network takes a picture for clean.
_LEAST_READ_NOISE = 1.5
# Root of the sum of the squared weights of the luma, ITU-R BT.601.
_OWN_IN_LUMA = 0.668
_NO_COMPRESSION = FileCompression(None, "not measured yet")
_NO_NOISE = NoiseLevel(0, 0, 0, 0.5, 0.5)
_NO_CLIPPING = Clipping(0, 0, 0.5, 0.5)
_NO_MEDIUM = ContentType("photograph", 0, 0, 0)


@dataclass(frozen=True)
class Condition:
    """The measurements up to now; a value counts once its name is in ``measured``.

    Attributes
    ----------
    width, height : of the picture in pixels
    own_origin : how this program made the picture, if it did
    sensor : what a raw file tells of its exposure; None of other pictures
    read : what the network reads from the pixels; None where the picture is too small
    blur : None where there are too few edges to know
    movement : None when none is seen
    enlarged : None when no earlier enlargement is seen
    borders : the picture without its plain borders, None when it has none
    has_alpha : whether it is transparent anywhere
    on_black : whether black lies under it, since what is opaque is light
    predicted : quantiles in dB of what each way to enlarge gains, where they were predicted beside the measuring
    """

    width: int
    height: int
    measured: tuple[Measurement, ...] = ()
    own_origin: OwnOrigin | None = None
    sensor: SensorExposure | None = None
    compression: FileCompression = _NO_COMPRESSION
    read: DegradationEstimate | None = None
    noise: NoiseLevel = _NO_NOISE
    blur: EdgeBlur | None = None
    movement: MotionBlur | None = None
    enlarged: EarlierEnlargement | None = None
    clipping: Clipping = _NO_CLIPPING
    content_type: ContentType = _NO_MEDIUM
    palette: Palette | None = None
    faces: tuple[Face, ...] = ()
    areas: SubjectAreas | None = None
    borders: Window | None = None
    spots: tuple[Spot, ...] = ()
    has_alpha: bool = False
    on_black: bool = False
    predicted: dict[str, tuple[float, ...]] | None = None

    @property
    def complete(self) -> bool:
        """Whether every row is measured."""
        return len(self.measured) == len(_MEASUREMENTS)


def measure_condition(picture: Picture, progress: Progress | None = None) -> Iterator[Condition]:
    """Measure a picture row by row: the condition as known after each measurement.

    Parameters
    ----------
    picture : the decoded picture
    progress : receives the progress; cancelling it raises `Cancelled`

    Returns
    -------
    After each row; the last has all of them.

    Raises
    ------
    Cancelled : when ``progress`` is cancelled
    """
    progress = progress or Progress()
    sample = Sample(picture)
    so_far = _nothing_measured(picture)
    # Not in a with block: a generator that is left before its end would wait for the pool in whatever thread
    # collects it.
    executor = ThreadPoolExecutor(1)
    try:
        # What takes longest, and waits for nothing else.
        faces = executor.submit(_faces, sample, progress)
        areas = executor.submit(lambda: find_areas(sample.small, faces.result(), picture.width))
        for number, (measurement, measure) in enumerate(_MEASUREMENTS):
            progress.check()
            progress.report(number / len(_MEASUREMENTS), f"measuring: {measurement}")
            # Cancelling is felt between measurements; the longest takes some tenths of a second.
            if measurement == "faces":
                so_far = replace(so_far, faces=faces.result())
            elif measurement == "subject":
                so_far = replace(so_far, areas=areas.result())
            else:
                so_far = measure(sample, so_far)
            so_far = replace(so_far, measured=(*so_far.measured, measurement))
            yield so_far
    finally:
        executor.shutdown(wait=False, cancel_futures=True)
    progress.report(1.0, "measured")


def _nothing_measured(picture: Picture) -> Condition:
    transparent = picture.alpha is not None
    return Condition(picture.width, picture.height, has_alpha=transparent, on_black=picture.ground == 0)


def measure_whole_condition(
    picture: Picture, progress: Progress | None = None, rows: tuple[Measurement, ...] | None = None
) -> Condition:
    """The whole condition of a picture, or those rows of it that wait for no others.

    Parameters
    ----------
    picture : the decoded picture
    progress : receives the progress; cancelling it raises `Cancelled`
    rows : which measurements; None for all

    Returns
    -------
    With the rows that were asked for.
    """
    if rows is None:
        *_, last = measure_condition(picture, progress)
        return last
    progress = progress or Progress()
    sample = Sample(picture)
    so_far = _nothing_measured(picture)
    for measurement, measure in _MEASUREMENTS:
        if measurement in rows:
            progress.check()
            so_far = replace(measure(sample, so_far), measured=(*so_far.measured, measurement))
    return so_far


def is_dithered(condition: Condition) -> bool:
    """Whether dots of a palette stand for the tones between.

    Parameters
    ----------
    condition : with the row "palette"
    """
    return condition.palette is not None and condition.palette.dithered


def known_compression(sample: Sample) -> FileCompression:
    """Compression of the file: from its tables, else from its pixels.

    Parameters
    ----------
    sample : the picture, prepared for measuring

    Returns
    -------
    Codec, quality and how it is known.
    """
    header = sample.picture.file_start
    compression = read_compression(header) if header else FileCompression(None, "it has no file to examine")
    if compression.quality is None:
        pixels = estimate_compression(sample.luma)
        if pixels is None:
            return FileCompression(None, "the pixels show no JPEG compression")
        where = "" if (pixels.grid_x, pixels.grid_y) == (0, 0) else " and cropped"
        reason = f"the pixels show JPEG quality {pixels.quality}; it was saved in another format later{where}"
        return FileCompression(pixels.quality, reason, in_file=False)
    if compression.codec != "jpeg":  # an earlier save as JPEG leaves no rhythm that the later one would keep
        return compression
    earlier = detect_earlier_quality(sample.luma, compression.quality)
    if earlier is None:
        shifted = estimate_compression(sample.luma, cropped=True)
        if shifted is not None and shifted.quality < compression.quality - _CLEARLY_LOWER:
            earlier = shifted.quality
    return replace(compression, earlier=earlier)


def _noise(sample: Sample, so_far: Condition) -> NoiseLevel:
    """Noise measured by the network, which separates noise from texture.

    Where a picture is too small for it, the noise of smooth places.
    """
    noise = measure_noise(sample.seen)
    if so_far.read is None:
        return noise
    levels = so_far.read.noise.value
    colour = min(so_far.read.colour_noise.value, levels)
    fraction = _fraction_behind_jpeg(sample, so_far.compression, levels, colour)
    levels, colour = fraction * levels, fraction * colour
    return replace(noise, levels=levels, luma=max(levels**2 - colour**2, 0) ** 0.5, colour=colour)


def _fraction_behind_jpeg(sample: Sample, compression: FileCompression, levels: float, colour: float) -> float:
    """Weight of the network's noise where the quantiser of the file gives another estimate.

    Both miss by as much, each in its own way: the mean of their logarithms is right more often than either.
    Where the network sees no noise, fine structure is all that the quantiser has left.
    """
    quality = compression.quality
    if compression.codec != "jpeg" or quality is None or compression.earlier is not None:
        return 1.0
    if not compression.in_file or levels < _LEAST_READ_NOISE:
        return 1.0
    behind = estimate_noise_behind_jpeg(sample.luma, quality)
    if behind is None:
        return 1.0
    # What channels have of their own is only in part in the luma.
    of_luma = (levels**2 - colour**2 + (_OWN_IN_LUMA * colour) ** 2) ** 0.5
    fraction = float((behind / of_luma) ** 0.5)
    return min(max(fraction, 1 - _MOST_CHANGE), 1 + _MOST_CHANGE)


def _add_blur(sample: Sample, so_far: Condition) -> Condition:
    blur = estimate_edge_blur(sample.luma, so_far.noise.levels)
    estimate = so_far.read
    clean = so_far.compression.quality is None and so_far.noise.levels < _LEAST_READ_NOISE
    if estimate is not None and clean and _likeliest(estimate)[0] != "photograph":
        estimate = replace(estimate, blur=estimate_drawing_blur(sample.luma, estimate.blur))
    return replace(so_far, blur=blur, movement=estimate_motion_blur(sample.luma), read=estimate)


def _enlarged(sample: Sample, so_far: Condition) -> EarlierEnlargement | None:
    drawn = so_far.read is not None and _likeliest(so_far.read)[0] != "photograph"
    return detect_earlier_enlargement(sample.luma, so_far.compression.codec, drawn=drawn)


def _content_type(sample: Sample, so_far: Condition) -> ContentType:
    repeated = so_far.enlarged is not None and so_far.enlarged.by_repeating
    compressed = so_far.compression.quality is not None
    content = classify_content(sample.shown, so_far.noise.levels, repeated_pixels=repeated, compressed=compressed)
    content = content if so_far.read is None else _as_read(content, so_far.read)
    stated = stated_generator(sample.picture)
    kind: ContentKind = "generated" if stated and content.kind == "photograph" else content.kind
    return replace(content, kind=kind, stated=stated)


def _palette(sample: Sample) -> Palette | None:
    if sample.picture.depth != 8 or sample.picture.raw is not None:
        return None
    pixels = np.rint(sample.colour * np.float32(255)).astype(np.uint8)
    palette = measure_palette(pixels, sample.picture.file_start)
    if palette is None:
        return None
    return replace(palette, x=palette.x + sample.centre.x, y=palette.y + sample.centre.y)


def _as_read(content: ContentType, read: DegradationEstimate) -> ContentType:
    """The network tells drawings and lettering from photographs also where they are small or compressed."""
    if content.kind == "pixel art":
        return content
    kind, likelihood = _likeliest(read)
    if kind == "photograph" and content.kind == "generated":
        return content
    return replace(content, kind=kind, likelihood=likelihood)


def _likeliest(read: DegradationEstimate) -> tuple[ReadKind, float]:
    """Most likely content type and its likelihood."""
    likeliest = max(range(len(KINDS)), key=lambda k: read.media[k])
    return KINDS[likeliest], read.media[likeliest]


def _faces(sample: Sample, progress: Progress) -> tuple[Face, ...]:
    scale = sample.picture.width / sample.shown.shape[1]
    return tuple(face.scaled(scale) for face in find_faces(sample.shown, progress))


def _with_faces(sample: Sample, so_far: Condition) -> Condition:
    return replace(so_far, faces=_faces(sample, Progress()))


def _with_areas(sample: Sample, so_far: Condition) -> Condition:
    return replace(so_far, areas=find_areas(sample.small, so_far.faces, sample.picture.width))


_MEASUREMENTS: tuple[tuple[Measurement, Callable[[Sample, Condition], Condition]], ...] = (
    ("made by", lambda s, c: replace(c, own_origin=read_own_origin(s.picture))),
    ("sensor", lambda s, c: replace(c, sensor=measure_sensor_exposure(s.picture))),
    ("compression", lambda s, c: replace(c, compression=known_compression(s))),
    ("palette", lambda s, c: replace(c, palette=_palette(s))),
    ("read", lambda s, c: replace(c, read=estimate_degradation(s.colour, c.compression.strength / 100))),
    ("noise", lambda s, c: replace(c, noise=_noise(s, c))),
    ("blur", _add_blur),
    ("enlarged", lambda s, c: replace(c, enlarged=_enlarged(s, c))),
    ("clipping", lambda s, c: replace(c, clipping=measure_clipping(s.shown))),
    ("medium", lambda s, c: replace(c, content_type=_content_type(s, c))),
    ("faces", _with_faces),  # these two are looked for beside the others
    ("borders", lambda s, c: replace(c, borders=None if c.has_alpha else find_borders(s.picture.pixels))),
    ("spots", lambda s, c: replace(c, spots=find_spots(s.seen, c.faces))),
    ("subject", _with_areas),
)
