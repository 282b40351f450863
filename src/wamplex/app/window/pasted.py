"""A picture that was copied in another program, kept as a file so that it can be a source."""

from __future__ import annotations

import os
from datetime import datetime
from pathlib import Path

from platformdirs import user_pictures_path
from PySide6.QtCore import QBuffer, QIODevice
from PySide6.QtGui import QImage

from wamplex.core.deliver.naming import free_path
from wamplex.core.files import write_whole


def pasted_file(image: QImage) -> Path:
    """Write a copied picture into the user's folder of pictures; no file there is replaced.

    Raises
    ------
    OSError : when it cannot be written
    """
    buffer = QBuffer()
    buffer.open(QIODevice.OpenModeFlag.WriteOnly)
    image.save(buffer, "PNG")  # type: ignore[call-overload]
    folder = user_pictures_path()
    os.makedirs(folder, exist_ok=True)
    path = free_path(folder / f"copied {datetime.now():%Y-%m-%d %H.%M.%S}.png")
    write_whole(path, bytes(buffer.data().data()))
    return path
