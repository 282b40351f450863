"""Downloads the source packages by name and version and collects their licence files."""

from __future__ import annotations

import shutil
import subprocess
import tarfile
from pathlib import Path

from training.sources import SOURCES, Source

_LICENCE_NAMES = (
    "copyright",
    "license",
    "license.md",
    "license.txt",
    "licence",
    "credits.txt",
    "package.json",
)


def unpacked_dir(work: Path, source: Source) -> Path:
    """Folder one package is unpacked into."""
    return work / "packages" / source.name


def fetch_all(work: Path) -> None:
    """Download and unpack every source that is not there yet."""
    for source in SOURCES:
        target = unpacked_dir(work, source)
        if (target / ".complete").exists():
            continue
        shutil.rmtree(target, ignore_errors=True)
        target.mkdir(parents=True)
        print(f"fetching {source.name} {source.version}", flush=True)
        if source.registry == "debian":
            _fetch_debian(source, target)
        else:
            _fetch_npm(source, target)
        _collect_licences(work, source, target)
        (target / ".complete").touch()


def _fetch_debian(source: Source, target: Path) -> None:
    subprocess.run(["apt-get", "download", f"{source.name}={source.version}"], cwd=target, check=True)
    package = next(target.glob("*.deb"))
    subprocess.run(["dpkg", "-x", str(package), str(target)], check=True)
    package.unlink()


def _fetch_npm(source: Source, target: Path) -> None:
    subprocess.run(["npm", "pack", "--silent", f"{source.name}@{source.version}"], cwd=target, check=True)
    package = next(target.glob("*.tgz"))
    with tarfile.open(package) as archive:
        archive.extractall(target, filter="data")
    package.unlink()


def _collect_licences(work: Path, source: Source, target: Path) -> None:
    out = work / "licences" / source.name
    out.mkdir(parents=True, exist_ok=True)
    for path in target.rglob("*"):
        nested_module = "node_modules" in path.parts or "plugins" in path.parts
        if path.is_file() and path.name.lower() in _LICENCE_NAMES and not nested_module:
            shutil.copy(path, out / "-".join(path.relative_to(target).parts))
