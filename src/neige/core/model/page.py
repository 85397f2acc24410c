"""The written page."""

from __future__ import annotations

from dataclasses import dataclass, field


@dataclass(frozen=True)
class Asset:
    """One file of the page, `path` relative to index.html."""

    path: str
    content: bytes


@dataclass(frozen=True, slots=True)
class Written:
    """What a part of the outline was written as: element, classes, and its first and last line in index.html (from 1)."""

    tag: str
    classes: tuple[str, ...]
    lines: tuple[int, int]


@dataclass(frozen=True)
class Page:
    """HTML, CSS and assets. `paths` gives for each outline node id its element as a path of child indices from body, `written` what it says.

    `refused`: edits by hand that found no place, and why. `fitted`: letters of its picture are fitted to whole px.
    """

    html: str
    css: str
    assets: tuple[Asset, ...]
    paths: dict[int, tuple[int, ...]]
    written: dict[int, Written] = field(default_factory=dict)
    refused: tuple[str, ...] = ()
    fitted: bool = False
