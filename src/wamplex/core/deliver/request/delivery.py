"""What kind of file is written, and where."""

from __future__ import annotations

from pathlib import Path
from typing import Any, Literal

from pydantic import Field, model_validator

from wamplex.core.base.frozen_model import FrozenModel
from wamplex.core.colour.convert import RenderingIntent
from wamplex.core.colour.icc import ProfileChoice
from wamplex.core.deliver.request.file_formats import FileFormat
from wamplex.core.geometry.pages import Pages

Compression = Literal["deflate", "lzw", "none"]
Chroma = Literal["auto", "444", "422", "420"]
MetadataChoice = Literal["all", "safe", "rights", "none"]


class Delivery(FrozenModel):
    """All that is chosen about a file beside its pixels.

    A DNG holds linear light in 16 bits, to be developed elsewhere; a PDF a page of exactly the print's size.
    ``depth`` counts for TIFF, PNG and PDF,
    ``compression`` for TIFF, ``quality``, ``chroma`` (in full, halved across, or halved both
    ways; by itself in full from quality 90 on) and ``progressive`` for JPEG.
    WebP is written without loss, in 8 bits.
    ``printer`` is the file of a printer's ICC profile, into whose inks a TIFF or PDF is separated.
    ``metadata`` says what of the source's EXIF, XMP and IPTC is passed on: all, all but place and serial numbers
    (safe), rights and description alone, or none.
    ``keep_recipe`` writes into the file how it was made, which names its source.
    ``source_type`` states how the pixels came about (IPTC Digital Source Type).
    ``folder`` None means beside the source; ``subfolder`` is one below either; ``copy_source`` puts a copy of
    the source beside the result, so that both stay together; ``pages`` None means one file.
    ``suffix`` None means the usual one of the format.
    """

    format: FileFormat = "tiff"
    depth: Literal[8, 16] = 16
    compression: Compression = "deflate"
    quality: int = Field(default=92, ge=1, le=100)
    chroma: Chroma = "auto"
    progressive: bool = False
    profile: ProfileChoice = "source"
    printer: Path | None = None
    intent: RenderingIntent = "relative"
    metadata: MetadataChoice = "safe"
    keep_recipe: bool = True
    source_type: bool = True
    folder: Path | None = None
    subfolder: str | None = Field(default=None, pattern=r"^[^/\x00]{1,100}$")
    copy_source: bool = False
    name_pattern: str = "{name}-{factor}x"
    pages: Pages | None = None
    suffix: str | None = Field(default=None, pattern=r"^\.[A-Za-z]{3,4}$")

    @model_validator(mode="before")
    @classmethod
    def _read_old_fields(cls, fields: Any) -> Any:
        """Before there were four choices, metadata was passed on or not."""
        if isinstance(fields, dict) and "keep_metadata" in fields:
            rest = {name: value for name, value in fields.items() if name != "keep_metadata"}
            return {"metadata": "all" if fields["keep_metadata"] else "none", **rest}
        return fields
