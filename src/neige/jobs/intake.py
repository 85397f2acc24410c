"""Looking at a picture before anything is stored."""

from __future__ import annotations

from dataclasses import dataclass

from neige.core.errors import SettingError
from neige.core.intake import open_picture
from neige.core.reading.overlay import png


@dataclass(frozen=True)
class NewPicture:
    """A picture that can be used: the file as it came, and a PNG of what is seen in it. Width and height in CSS px."""

    name: str
    content: bytes
    preview: bytes
    width: float
    height: float
    scale: int
    trim: tuple[int, int, int, int] = (0, 0, 0, 0)


def check_picture(
    content: bytes,
    name: str,
    width: float | None = None,
    scale: float | None = None,
    trim: tuple[int, int, int, int] = (0, 0, 0, 0),
) -> NewPicture:
    """Decode a picture as a build would. Raises PictureError or SettingError with the reason."""
    if scale is not None and scale not in (1.0, 2.0, 3.0):
        raise SettingError(f"scale must be 1, 2 or 3, not {scale:g}")
    picture = open_picture(content, name, width=width, scale=int(scale) if scale else None, trim=trim)
    return NewPicture(name, content, png(picture.pixels), picture.width, picture.height, picture.scale, trim)
