"""What is painted in front of something that follows it in the document: by the picture's layers, not by the document's order."""

from __future__ import annotations

import numpy as np

from neige.core.model import Node

MEETING = 2.0  # px that two parts share at least, each way
MOST = 1500  # painted parts that are compared with each other
Layers = dict[int, int]  # how far in front surfaces are, by id(); pictures and the page are behind them all


def bring_forward(root: Node, layers: Layers) -> None:
    """Mark parts that lie in front of what the document has after them ("front"), and what they hide ("behind")."""
    whole = root.walk(document=True)
    order = [n for n in whole if id(n.surface) in layers]
    if not 2 <= len(order) <= MOST:
        return
    x0, y0, x1, y1 = (
        np.array([getattr(n.rect, side) for n in order]) for side in ("x", "y", "right", "bottom")
    )
    w = np.minimum(x1[:, None], x1) - np.maximum(x0[:, None], x0)
    h = np.minimum(y1[:, None], y1) - np.maximum(y0[:, None], y0)
    layer = np.array([layers[id(n.surface)] for n in order])
    at = {id(n): k for k, n in enumerate(whole)}
    start = np.array([at[id(n)] for n in order])
    end = start + [len(n.walk()) for n in order]  # what is in a part is painted on it in any case
    hides = np.triu((w > MEETING) & (h > MEETING) & (layer[:, None] > layer) & (start >= end[:, None]), 1)
    for n, fore, back in zip(order, hides.any(axis=1), hides.any(axis=0)):
        if fore:
            n.attributes["front"] = "1"
            n.reasons.append("seen in front of what follows")
        if back:
            n.attributes["behind"] = "1"
