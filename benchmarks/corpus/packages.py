"""Fetches the test pictures of general libraries by package and version; none stays in the project."""

from __future__ import annotations

import os
import subprocess
import sys
import tarfile
from dataclasses import dataclass
from pathlib import Path
from typing import Literal

import platformdirs

_SUFFIXES = (
    *(".png", ".jpg", ".jpeg", ".jpe", ".tif", ".tiff", ".webp", ".gif", ".bmp", ".dib"),
    *(".ppm", ".pgm", ".pbm", ".pam", ".pnm", ".avif", ".heic", ".heif", ".jxl", ".jp2"),
    *(".j2k", ".j2c", ".jpc", ".exr"),
)


@dataclass(frozen=True)
class Package:
    """A package whose sources hold test pictures: its registry, name, and version."""

    registry: Literal["pypi", "debian"]
    name: str
    version: str


PACKAGES = (
    Package("pypi", "pillow", "13.0.0"),
    Package("debian", "libpng1.6", "1.6.39-2+deb12u5"),
    Package("debian", "libjpeg-turbo", "1:2.1.5-2"),
    Package("debian", "tiff", "4.5.0-6+deb12u4"),
    Package("debian", "vips", "8.14.1-3+deb12u3"),
    Package("debian", "libheif", "1.15.1-1+deb12u1"),
    Package("debian", "openjpeg2", "2.5.0-2+deb12u3"),
    Package("debian", "openexr", "3.1.5-5"),
)


def pictures() -> list[tuple[Package, list[Path]]]:
    """The picture files of each package that could be had, in the order of their names."""
    root = Path(platformdirs.user_cache_dir("wamplex-corpus"))
    return [(package, _found(_fetched(package, root))) for package in PACKAGES]


def _found(folder: Path) -> list[Path]:
    return sorted(
        path
        for path in folder.rglob("*")
        if path.suffix.lower() in _SUFFIXES and path.is_file() and not path.is_symlink()
    )


def _fetched(package: Package, root: Path) -> Path:
    target = root / f"{package.name}-{package.version.replace(':', '_')}"
    if (target / ".complete").exists():
        return target
    target.mkdir(parents=True, exist_ok=True)
    fetch = _from_pypi if package.registry == "pypi" else _from_debian
    try:
        fetch(package, target)
    except subprocess.CalledProcessError as error:
        print(f"{package.name} {package.version} cannot be had: {error}", file=sys.stderr)
        return target
    for archive in sorted((*target.glob("*.tar.gz"), *target.glob("*.tar.xz"))):
        with tarfile.open(archive) as opened:
            opened.extractall(target, filter="data")
        archive.unlink()
    (target / ".complete").touch()
    return target


def _from_pypi(package: Package, target: Path) -> None:
    words = ["download", "--quiet", "--no-deps", "--no-binary", ":all:", "--dest", str(target)]
    subprocess.run([sys.executable, "-m", "pip", *words, f"{package.name}=={package.version}"], check=True)


def _from_debian(package: Package, target: Path) -> None:
    """With the computer's own list of archives, read as one of sources."""
    lists, parts = target.parent / "lists", target.parent / "parts"
    (lists / "partial").mkdir(parents=True, exist_ok=True)
    parts.mkdir(exist_ok=True)
    own = Path("/etc/apt/sources.list.d/debian.sources").read_text("utf-8")
    (parts / "sources.sources").write_text(own.replace("Types: deb\n", "Types: deb-src\n"), "utf-8")
    options = [
        f"-oDir::Etc::sourcelist={os.devnull}",
        f"-oDir::Etc::sourceparts={parts}",
        f"-oDir::State::Lists={lists}",
    ]
    quiet = {"cwd": target, "check": True, "stdout": subprocess.DEVNULL, "stderr": subprocess.DEVNULL}
    if len(list(lists.iterdir())) < 3:
        subprocess.run(["apt-get", *options, "-q", "update"], **quiet)  # type: ignore[call-overload]
    wanted = f"{package.name}={package.version}"
    subprocess.run(["apt-get", *options, "-q", "source", "--download-only", wanted], **quiet)  # type: ignore[call-overload]
