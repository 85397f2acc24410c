"""The page's own ground: the colour or gradient that everything else lies on."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from neige.core.model import Fill
from neige.core.reading.colour import pack, to_hex
from neige.core.reading.surfaces.flat import Hull
from neige.core.reading.surfaces.gradient import Ramp

RING = 3  # 8-bit steps between the ground and the outermost rings of shadows on it
WHITE = 0.5  # of the height of the commonest colour's bands that white bands need to be the page's ground
EDGE = (
    1  # px from the page's left or right edge, which its ground reaches: a card as wide as the page does not
)
AROUND = 2  # bands of a tint, above and below a white one
FULL = 0.995  # of the page's width: a band


def fill_of(
    colour: tuple[float, float, float],
    box: tuple[int, int, int, int],
    ramps: dict[tuple[int, int, int], Ramp],
) -> Fill:
    """A flat colour, or the gradient that it stands for in the working picture, on `box` (device px)."""
    ramp = ramps.get((int(colour[0]), int(colour[1]), int(colour[2])))
    return ramp.fill(box) if ramp else Fill(to_hex(colour))


def page_ground(
    working: NDArray[np.uint8], hulls: list[Hull], ramps: dict[tuple[int, int, int], Ramp]
) -> Fill:
    """The page's own ground: the colour whose regions span most of the page, what lies on them included.

    Cards may well have more pixels than the page that shows between them, but the page reaches round them. Regions inside
    a region that is already counted do not count; without any, the commonest colour is taken.
    """
    height, width = working.shape[:2]
    votes: dict[int, float] = {}
    counted: list[Hull] = []
    for hull in sorted(hulls, key=lambda h: -(h[2] - h[0]) * (h[3] - h[1])):
        if not any(
            hull[0] >= c[0] and hull[1] >= c[1] and hull[2] <= c[2] and hull[3] <= c[3] for c in counted
        ):
            counted.append(hull)
            votes[hull[4]] = votes.get(hull[4], 0.0) + (hull[2] - hull[0]) * (hull[3] - hull[1])
    if not votes:
        values, counts = np.unique(pack(working[::2, ::2]), return_counts=True)
        votes = dict(zip(values.tolist(), counts.tolist()))
    reaching = {h[4] for h in hulls if h[0] <= EDGE or h[2] >= width - EDGE}
    best = max(sorted(reaching & votes.keys() or votes), key=lambda v: votes[v])
    bands = {
        c: sum(h[3] - h[1] for h in hulls if h[4] == c and h[2] - h[0] >= FULL * width)
        for c in (best, 0xFFFFFF)
    }
    whole = [h for h in hulls if h[4] == best and h[2] - h[0] >= FULL * width]
    above = max((h[3] - h[1] for h in whole if h[1] <= EDGE), default=0)
    below = max((h[3] - h[1] for h in whole if h[3] >= height - EDGE), default=0)
    # a head and a foot have other heights; a tint in several bands is theirs, not the page's
    around = 0 < above < below and bands[best] > bands[0xFFFFFF] and len(whole) <= AROUND
    if bands[0xFFFFFF] >= WHITE * max(bands[best], 1) and not around:
        best = 0xFFFFFF  # bands of white and of a tint: a page is white unless it says otherwise
    red, green, blue = best >> 16 & 255, best >> 8 & 255, best & 255
    sparse = working[::2, ::2].reshape(-1, 3)
    near = sparse[(np.abs(sparse.astype(np.int16) - (red, green, blue)) <= RING).all(axis=1)]
    if (red, green, blue) not in ramps and near.size:
        # a ring of a shadow's may span more of the page than the ground it lies on
        values, counts = np.unique(pack(near), return_counts=True)
        best = int(values[counts.argmax()])
    colour = (float(best >> 16 & 255), float(best >> 8 & 255), float(best & 255))
    return fill_of(colour, (0, 0, width, height), ramps)
