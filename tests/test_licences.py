"""What ships with the program has licences that we accept; docs/licences.md says which, and why."""

from __future__ import annotations

import re
from importlib.metadata import PackageNotFoundError, distribution, files
from pathlib import Path
from typing import Any

ROOT = Path(__file__).parents[1]
ACCEPTED = re.compile(
    r"MIT|BSD|Apache|ISC|PSF|Zlib|0BSD|CC0|HPND|\bLGPL|Lesser General Public|Mozilla Public|MPL", re.IGNORECASE
)
REFUSED = re.compile(r"(?<!L)\bGPL|(?<!Lesser )General Public|AGPL|proprietary|non-?commercial", re.IGNORECASE)
# These state no licence in their metadata; their texts are in the wheels.
STATED_IN_FILES = {"openexr": "BSD-3-Clause"}
# Qt for Python may be had under the LGPL.
CHOICES = re.compile(r"LGPL-3.0-only OR ")
# Libraries inside of wheels that say less than the wheel's metadata.
GPL_LIBRARIES = re.compile(r"lib(x265|x264|fftw3|gsl)\b")
KNOWN = {("pillow-heif", "libx265")}


def shipped() -> set[str]:
    """The program's dependencies and theirs, without those of its extras."""
    names, waiting = set[str](), ["wamplex"]
    while waiting:
        name = re.sub(r"[-_.]+", "-", waiting.pop()).lower()
        if name in names:
            continue
        try:
            requires = distribution(name).requires or []
        except PackageNotFoundError:  # for other systems
            continue
        names.add(name)
        waiting += [re.match(r"[\w.-]+", text)[0] for text in requires if "extra ==" not in text]
    return names


def licence(name: str) -> str:
    metadata: Any = distribution(name).metadata
    classifiers = [c for c in metadata.get_all("Classifier", []) if c.startswith("License")]
    stated = metadata.get("License-Expression") or " ".join(
        [*(metadata.get("License") or "").split("\n")[:1], *classifiers]
    )
    return STATED_IN_FILES.get(name, stated)


def test_every_licence_is_one_that_we_accept() -> None:
    names = shipped()
    assert len(names) > 25
    refused = {}
    for name in names:
        text = licence(name)
        if not ACCEPTED.search(text) or (REFUSED.search(text) and not CHOICES.search(text)):
            refused[name] = text
    assert refused == {}


def test_wheels_bring_no_other_library_under_the_gpl() -> None:
    found = set()
    for name in shipped():
        for path in files(name) or []:
            match = GPL_LIBRARIES.search(path.name)
            if match:
                found.add((name, match[0]))
    assert found == KNOWN


def test_the_page_names_all_of_them() -> None:
    page = (ROOT / "docs" / "licences.md").read_text()
    assert [name for name in sorted(shipped() - {"wamplex"}) if f"| {name} |" not in page] == []
