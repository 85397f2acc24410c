"""The written page."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class Asset:
    """One file of the page, `path` relative to index.html."""

    path: str
    content: bytes


@dataclass(frozen=True)
class Page:
    """HTML, CSS and assets. `paths` gives for each outline node id its element as a path of child indices from body."""

    html: str
    css: str
    assets: tuple[Asset, ...]
    paths: dict[int, tuple[int, ...]]
