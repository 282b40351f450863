"""Where the files that ship with the program lie."""

from __future__ import annotations

from pathlib import Path

_PACKAGE = Path(__file__).parents[2]
MODELS_DIR = _PACKAGE / "models"
FONTS_DIR = _PACKAGE / "fonts"
ICONS_DIR = _PACKAGE / "icons"
DEMO_DIR = _PACKAGE / "demo"
