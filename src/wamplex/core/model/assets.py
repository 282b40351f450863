"""Binary parts that recipes reference by digest, such as masks."""

from __future__ import annotations

import hashlib
from collections.abc import Iterable, Iterator
from functools import cache

from pydantic import Field

from wamplex.core.base.errors import ProjectError
from wamplex.core.base.frozen_model import FrozenModel


class AssetRef(FrozenModel):
    """A binary part, by the SHA-256 of its bytes in hexadecimal."""

    digest: str = Field(pattern="^[0-9a-f]{64}$")


class Assets:
    """Binary parts at hand; safe to use from any thread, since nothing that is there ever changes."""

    def __init__(self) -> None:
        self._bytes: dict[str, bytes] = {}

    def some(self, refs: Iterable[AssetRef]) -> Assets:
        """The binary parts of some references.

        Parameters
        ----------
        refs : references to binary parts

        Raises
        ------
        ProjectError : when one is missing
        """
        chosen = Assets()
        for ref in refs:
            chosen.put(self.get(ref))
        return chosen

    def take_in(self, other: Assets) -> None:
        """Have all that another has, too.

        Parameters
        ----------
        other : binary parts, for instance of a project
        """
        self._bytes.update(other._bytes)

    def __iter__(self) -> Iterator[AssetRef]:
        return (AssetRef(digest=digest) for digest in self._bytes)

    def put(self, data: bytes) -> AssetRef:
        """Keep some bytes, once.

        Parameters
        ----------
        data : bytes of a binary part
        """
        digest = hashlib.sha256(data).hexdigest()
        self._bytes.setdefault(digest, data)
        return AssetRef(digest=digest)

    def get(self, ref: AssetRef) -> bytes:
        """The bytes that a reference means.

        Parameters
        ----------
        ref : reference to a binary part

        Raises
        ------
        ProjectError : when they are missing
        """
        try:
            return self._bytes[ref.digest]
        except KeyError:
            raise ProjectError(f"A part of the project is missing (asset {ref.digest[:12]}).") from None


@cache
def process_assets() -> Assets:
    """This program's binary parts: a part is known by its own bytes, so all projects can share them.

    Returns
    -------
    The store.
    """
    return Assets()
