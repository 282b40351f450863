"""The desktop entry, and the kind of file that projects are (freedesktop.org specifications)."""

from __future__ import annotations

from pathlib import Path

from wamplex.core.intake.formats import MIME_TYPES

PROJECT_TYPE = "application/x-wamplex-project"


def desktop_entry(program: Path) -> str:
    """Desktop Entry Specification 1.5; the program opens files beside what is open."""
    types = ";".join((*MIME_TYPES, PROJECT_TYPE))
    return f"""[Desktop Entry]
Type=Application
Version=1.0
Name=Wamplex
GenericName=Picture enlarger
Comment=Enlarge pictures for printing and compare upscalers
Exec={_quoted(program)} %F
Icon=wamplex
Terminal=false
Categories=Graphics;2DGraphics;RasterGraphics;Photography;
Keywords=enlarge;upscale;print;photo;
MimeType={types};
StartupWMClass=Wamplex
"""


def mime_package() -> str:
    """Shared MIME-info Database Specification: projects are told by their suffix."""
    return f"""<?xml version="1.0" encoding="UTF-8"?>
<mime-info xmlns="http://www.freedesktop.org/standards/shared-mime-info">
  <mime-type type="{PROJECT_TYPE}">
    <comment>Wamplex project</comment>
    <sub-class-of type="application/zip"/>
    <icon name="wamplex"/>
    <glob pattern="*.wamplex"/>
  </mime-type>
</mime-info>
"""


def _quoted(program: Path) -> str:
    """As the specification has arguments: in double quotes, with what means something there escaped."""
    text = str(program)
    for sign in ("\\", '"', "`", "$"):
        text = text.replace(sign, f"\\{sign}")
    return '"' + text.replace("%", "%%") + '"'
