"""The tile images used most recently."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Collection

from PySide6.QtGui import QImage

from wamplex.app.shared.render_requests import TileKey
from wamplex.core.model.source import Source

_CACHE_BYTES = 600_000_000


class TileCache:
    """Tile images, the ones used last, up to a number of bytes."""

    def __init__(self) -> None:
        self._images: OrderedDict[TileKey, QImage] = OrderedDict()
        self._bytes = 0

    def __len__(self) -> int:
        return len(self._images)

    def get(self, key: TileKey) -> QImage | None:
        """The image, if it is at hand."""
        image = self._images.get(key)
        if image is not None:
            self._images.move_to_end(key)
        return image

    def keep_only(self, sources: Collection[Source]) -> None:
        """Drop the images of all other sources."""
        for key in [key for key in self._images if key.source not in sources]:
            self._bytes -= self._images.pop(key).sizeInBytes()

    def put(self, key: TileKey, image: QImage) -> None:
        """Keep an image."""
        if key in self._images:
            return
        self._images[key] = image
        self._bytes += image.sizeInBytes()
        while self._bytes > _CACHE_BYTES and len(self._images) > 1:
            _, old = self._images.popitem(last=False)
            self._bytes -= old.sizeInBytes()
