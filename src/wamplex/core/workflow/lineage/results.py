"""Finds the results of a source, and the source of a result."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from contextlib import suppress
from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path

from wamplex.core.base.errors import RecipeError, SourceChangedError, UnreachableFileError, UnreadablePictureError
from wamplex.core.base.progress import Progress
from wamplex.core.intake.formats import SUFFIXES
from wamplex.core.intake.probe import probe
from wamplex.core.model.recipe import Recipe
from wamplex.core.model.source import Source
from wamplex.core.provenance.recipe_reader import read_xmp
from wamplex.core.provenance.xmp import parse_recipe

_MOST_FILES = 3000  # of a folder; one with more is no place where a person looks for results


@dataclass(frozen=True)
class LineageResult:
    """A file that was made here.

    Attributes
    ----------
    file : the file itself
    width, height : its pixels
    source_name, source_digest : of what it was made of; the digest is SHA-256
    """

    file: Source
    width: int
    height: int
    source_name: str
    source_digest: str
    recipe: Recipe

    @property
    def path(self) -> Path:
        """Path of the file."""
        return self.file.path


def find_results(source: Source, folders: Iterable[Path], progress: Progress) -> tuple[LineageResult, ...]:
    """Find the results of a source near it and in known folders.

    Parameters
    ----------
    source : the source file
    folders : where to look
    progress : receives the progress; cancelling it raises `Cancelled`

    Returns
    -------
    By their names; empty where the source is another by now.

    Raises
    ------
    Cancelled : when ``progress`` is cancelled
    """
    listed: list[LineageResult] = []
    for folder in _list_pictures(source.path.parent, folders):
        progress.check()
        listed += _results_in(folder, _changed(folder))
    # Reading a thousand sources to hash them takes minutes: only those are that something may be made of.
    possible = [result for result in listed if _may_be_of(result, source)]
    if not possible:
        return ()
    progress.check()
    try:
        digest = source.digest
    except (SourceChangedError, UnreadablePictureError, OSError):
        return ()
    results = [result for result in possible if result.source_digest == digest and result.path != source.path]
    return tuple(sorted(results, key=lambda result: (result.path.name, str(result.path))))


def _may_be_of(result: LineageResult, source: Source) -> bool:
    """Whether the names fit, or the source had another name when the file was made."""
    named = source.path.with_name(result.source_name) if result.source_name else source.path
    return named == source.path or not named.exists()


def _changed(folder: Path) -> int:
    try:
        return folder.stat().st_mtime_ns
    except OSError:
        return 0


@lru_cache(maxsize=200)
def _results_in(folder: Path, changed: int) -> tuple[LineageResult, ...]:
    """Results in a folder; read again when the folder has changed."""
    files = (find_result_file(path) for path in _pictures([folder]))
    return tuple(result for result in files if result is not None)


def find_source(result: LineageResult, folders: Iterable[Path], progress: Progress) -> Path | None:
    """The source that a file was made of: around it, a folder higher, or in further ones.

    Its name may have changed since; its bytes may not.

    Parameters
    ----------
    result : a file that Wamplex wrote
    folders : where to look
    progress : receives the progress; cancelling it raises `Cancelled`

    Returns
    -------
    The source; None where it is unknown.

    Raises
    ------
    Cancelled : when ``progress`` is cancelled
    """
    around = _list_pictures(result.path.parent, [result.path.parent.parent, *folders])
    candidates = sorted(_pictures(around), key=lambda path: path.name != result.source_name)
    for path in candidates:
        progress.check()
        with suppress(UnreadablePictureError, SourceChangedError, OSError):
            if path != result.path and Source.of(path).digest == result.source_digest:
                return path
    return None


def find_result_file(path: Path) -> LineageResult | None:
    """Read how a file was made.

    Parameters
    ----------
    path : the file

    Returns
    -------
    Its origin; None where Wamplex did not write it, or not with its recipe.
    """
    try:
        return _read(Source.of(path))
    except UnreadablePictureError:
        return None


@lru_cache(maxsize=20_000)
def _read(file: Source) -> LineageResult | None:
    try:
        origin = parse_recipe(read_xmp(file.path))
        if origin is None or "SourceDigest" not in origin[1]:
            return None
        header = probe(file.path)
    except UnreachableFileError:
        raise  # not to be remembered: it may be read the next time
    except (UnreadablePictureError, RecipeError):
        return None
    name, digest = origin[1].get("SourceName", ""), origin[1]["SourceDigest"]
    return LineageResult(file, header.width, header.height, name, digest, origin[0])


def _list_pictures(folder: Path, further: Iterable[Path]) -> Iterator[Path]:
    searched_folders = set[Path]()
    for place in (folder, *_list_subfolders(folder), *further):
        if place not in searched_folders:
            searched_folders.add(place)
            yield place


def _list_subfolders(folder: Path) -> list[Path]:
    try:
        return sorted(p for p in folder.iterdir() if p.is_dir() and not p.name.startswith("."))[:50]
    except OSError:
        return []


def _pictures(folders: Iterable[Path]) -> Iterator[Path]:
    for folder in folders:
        try:
            listed = sorted(folder.iterdir())[:_MOST_FILES]
        except OSError:
            continue
        yield from (path for path in listed if path.suffix.lower() in SUFFIXES and path.is_file())
