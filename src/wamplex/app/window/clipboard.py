"""Pastes files or a picture from another program; a picture becomes a file first."""

from __future__ import annotations

import os
from collections.abc import Callable
from datetime import datetime
from pathlib import Path

from platformdirs import user_pictures_path
from PySide6.QtCore import QBuffer, QIODevice
from PySide6.QtGui import QGuiApplication, QImage

from wamplex.app.shared.notice_bar import NoticeBar
from wamplex.core.base.atomic_files import write_atomically
from wamplex.core.deliver.request.naming import free_path


def paste(take_in: Callable[[list[Path]], None], notices: NoticeBar) -> None:
    """Take in the files that were copied, or the picture, which becomes a file first."""
    copied = QGuiApplication.clipboard().mimeData()
    if copied.hasUrls():
        take_in([Path(url.toLocalFile()) for url in copied.urls() if url.isLocalFile()])
    elif copied.hasImage():
        try:
            path = save_pasted_picture(QGuiApplication.clipboard().image())
        except OSError as error:
            notices.warn(f"The picture cannot be saved: {(error.strerror or str(error)).lower()}.")
            return
        notices.say(f"The copied picture was saved as {path}.")
        take_in([path])
    else:
        notices.say("The clipboard holds neither a picture nor a file.")


def save_pasted_picture(image: QImage) -> Path:
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
    write_atomically(path, bytes(buffer.data().data()))
    return path
