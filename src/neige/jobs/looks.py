"""Pictures of a build that are made from those that are stored."""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray
from sqlalchemy.orm import Session

from neige.core.proof import difference_map
from neige.core.reading.overlay import png
from neige.store.database import get_blob, put_blob
from neige.store.models import Build

THUMBNAIL = (480, 320)  # px


def difference_of(s: Session, build: Build) -> str | None:
    """The blob of the picture of where a build's page and its picture differ, drawn if it has not been; None: there is no page.

    It is drawn when somebody asks for it, as the thumbnail is: a changed value is then shown that much sooner."""
    if build.difference is None and build.drawn is not None:
        seen, drawn = _both(s, build, build.drawn)
        build.difference = put_blob(s, png(difference_map(seen, drawn, build.picture.scale)))
    return build.difference


def thumbnail_of(s: Session, build: Build) -> str | None:
    """The blob of a build's thumbnail (see `split_thumbnail`), drawn if it has not been; None: there is no page."""
    if build.thumbnail is None and build.drawn is not None:
        build.thumbnail = put_blob(s, split_thumbnail(*_both(s, build, build.drawn)))
    return build.thumbnail


def _both(s: Session, build: Build, drawn: str) -> tuple[NDArray[np.uint8], NDArray[np.uint8]]:
    """The picture, and the page as it was drawn."""
    return _decoded(get_blob(s, build.picture.preview) or b""), _decoded(get_blob(s, drawn) or b"")


def _decoded(content: bytes) -> NDArray[np.uint8]:
    image = cv2.imdecode(np.frombuffer(content, np.uint8), cv2.IMREAD_COLOR)
    assert image is not None  # it was encoded here
    return np.asarray(cv2.cvtColor(image, cv2.COLOR_BGR2RGB), np.uint8)


def split_thumbnail(picture: NDArray[np.uint8], page: NDArray[np.uint8]) -> bytes:
    """The top of a picture, its right half taken from the page: how alike they are shows at the seam."""
    w, h = THUMBNAIL

    def fit(pixels: np.ndarray) -> np.ndarray:
        width = pixels.shape[1]
        part = pixels[: max(1, round(width * h / w))]
        out = np.full((h, w, 3), 255, np.uint8)
        small = cv2.resize(part, (w, max(1, round(part.shape[0] * w / width))), interpolation=cv2.INTER_AREA)[
            :h
        ]
        out[: small.shape[0]] = small
        return out

    a, b = fit(picture), fit(page)
    a[:, w // 2 :] = b[:, w // 2 :]
    return png(a)
