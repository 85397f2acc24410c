"""The whole story on one screen: bytes to a proven page."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Protocol

from neige.core.intake import open_picture
from neige.core.model import Drawing, Outline, Page, Picture, Proof, Reading, Round
from neige.core.outline import arrange
from neige.core.proof import correct, misplacement, prove
from neige.core.reading import read
from neige.core.writer import write
from neige.core.writer.cutouts import Encoded

# Rounds of correction: does the round take heights as they are (see `correct`)? Each starts from the best page so far.
ROUNDS = (False, False, True, False, True, True, True)
ENOUGH = 0.2  # px: a mean word placed better than this is not worth another round


class Renderer(Protocol):
    """Draw a page at a width; without pixels it is laid out and measured only."""

    def __call__(self, page: Page, width: float, *, scale: int = 1, pixels: bool = True) -> Drawing: ...


Progress = Callable[[str, str], None]


@dataclass(frozen=True)
class Build:
    """Everything one build made."""

    picture: Picture
    reading: Reading
    outline: Outline
    page: Page
    drawing: Drawing
    proof: Proof


def build(
    content: bytes,
    name: str,
    render: Renderer,
    *,
    width: float | None = None,
    scale: int | None = None,
    progress: Progress = lambda stage, what: None,
) -> Build:
    """Picture bytes to a page, drawn, corrected and proven. `progress(stage, what)` is called as things are found."""
    picture = open_picture(content, name, width=width, scale=scale)
    progress("intake", f"{picture.width:g} x {picture.height:g} px at {picture.scale}x")
    reading = read(picture, progress=progress)
    outline = arrange(reading)
    progress("outline", f"{len(outline.root.walk())} parts")
    encoded: Encoded = {}
    outline, rounds = settle(outline, reading, picture, render, progress, encoded)
    page = write(outline, reading, picture, encoded=encoded)
    progress(
        "write",
        f"{len(page.html.encode()) + len(page.css.encode())} bytes of HTML and CSS, {len(page.assets)} assets",
    )
    drawing = render(page, picture.width)
    proof = prove(reading, picture, drawing, rounds)
    progress(
        "prove",
        f"{proof.words_found} of {proof.words_seen} words, {proof.position_px:.1f} px off, SSIM {proof.ssim:.3f}",
    )
    return Build(picture, reading, outline, page, drawing, proof)


def settle(
    outline: Outline,
    reading: Reading,
    picture: Picture,
    render: Renderer,
    progress: Progress,
    encoded: Encoded | None = None,
) -> tuple[Outline, tuple[Round, ...]]:
    """Draw, measure, correct, until it no longer helps. A round that makes things worse is dropped."""
    encoded = {} if encoded is None else encoded
    best, best_error, drawing = outline, float("inf"), None
    current, changes = outline, 0
    rounds: list[Round] = []
    tried: set[bool] = set()  # kinds of correction that have not helped the best page so far
    for absolute in (*ROUNDS, None):
        seen = render(
            write(current, reading, picture, subset=False, encoded=encoded), picture.width, pixels=False
        )
        error = misplacement(current, reading, seen)
        kept = error < best_error
        rounds.append(Round(round(error, 4), kept, changes))
        progress("correct", f"round {len(rounds) - 1}: words {error:.2f} px off on average")
        if kept:
            best, best_error, drawing = current, error, seen
            tried.clear()
        if absolute is None or drawing is None or best_error < ENOUGH or len(tried) == 2:
            break
        absolute = absolute if absolute not in tried else not absolute
        tried.add(absolute)
        current, changes = correct(best, reading, drawing, absolute=absolute)
    return best, tuple(rounds)
