"""The origin written into a file; equal for equal source, recipe and program."""

from __future__ import annotations

import hashlib
import uuid
from dataclasses import dataclass
from importlib.metadata import version

from wamplex.core.guests.guest_use import guest_provenance_text
from wamplex.core.model.recipe import Recipe
from wamplex.core.model.source import Source
from wamplex.core.upscale.networks.execution import current_execution, provider_label

# Of identifiers made of digests, so that a file has the same one everywhere (RFC 9562, version 5).
_FILES = uuid.uuid5(uuid.NAMESPACE_URL, "urn:wamplex:file")


@dataclass(frozen=True)
class FileOrigin:
    """How a file was made.

    Attributes
    ----------
    program : name and version
    provider : where networks ran
    source_name, source_digest : of the file it was made of; the digest is SHA-256
    source_id : that the source's own description states, else made of its digest
    guests : where pixels come from that were not made here, in words
    """

    program: str
    provider: str
    source_name: str
    source_digest: str
    source_id: str
    recipe: Recipe
    guests: str = ""

    @property
    def recipe_text(self) -> str:
        """The recipe as JSON, with every field: what is usual may change."""
        return _text(self.recipe)

    @property
    def recipe_digest(self) -> str:
        """SHA-256 of the recipe's text."""
        return recipe_digest(self.recipe)

    @property
    def instance_id(self) -> str:
        """Identifier of the result; unique for source, recipe, program and provider."""
        parts = (self.source_digest, self.recipe_digest, self.program, self.provider)
        return f"xmp.iid:{uuid.uuid5(_FILES, ' '.join(parts))}"

    @property
    def document_id(self) -> str:
        """Identifier that all results of a source share."""
        return f"xmp.did:{uuid.uuid5(_FILES, f'results of {self.source_digest}')}"


def recipe_digest(recipe: Recipe) -> str:
    """Digest of a recipe's JSON.

    Parameters
    ----------
    recipe : all decisions about the picture

    Returns
    -------
    SHA-256 in hexadecimal.
    """
    return hashlib.sha256(_text(recipe).encode()).hexdigest()


def _text(recipe: Recipe) -> str:
    return recipe.model_dump_json()


def make_origin(source: Source, recipe: Recipe, source_id: str | None) -> FileOrigin:
    """Describe how a file with this recipe is made, here and now.

    Parameters
    ----------
    source : the source file
    recipe : all decisions about the picture
    source_id : identifier that the source states of itself, if any

    Returns
    -------
    Origin for its metadata.

    Raises
    ------
    SourceChangedError : when the source is another by now
    """
    return FileOrigin(
        program=f"Wamplex {version('wamplex')}",
        provider=provider_label(current_execution().provider),
        source_name=source.path.name,
        source_digest=source.digest,
        source_id=source_id or document_id(source.digest),
        recipe=recipe,
        guests=guest_provenance_text(recipe),
    )


def document_id(digest: str) -> str:
    """Document identifier of a file that states none.

    Parameters
    ----------
    digest : SHA-256 in hexadecimal

    Returns
    -------
    XMP identifier.
    """
    return f"xmp.did:{uuid.uuid5(_FILES, digest)}"
