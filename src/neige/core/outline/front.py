"""What is painted in front of something that follows it in the document: by the picture's layers, not by the document's order."""

from __future__ import annotations

import numpy as np

from neige.core.model import Node

MEETING = 2.0  # px that two parts share at least, each way
MOST = 1500  # painted parts that are compared with each other
Layers = dict[int, int]  # how far in front surfaces are, by id(); pictures and the page are behind them all


def bring_forward(root: Node, layers: Layers) -> None:
    """Mark parts that lie in front of what the document has after them ("front"), and what they hide ("behind")."""
    order = [n for n in root.walk(document=True) if id(n.surface) in layers]
    if not 2 <= len(order) <= MOST:
        return
    x0, y0, x1, y1 = (
        np.array([getattr(n.rect, side) for n in order]) for side in ("x", "y", "right", "bottom")
    )
    w = np.minimum(x1[:, None], x1) - np.maximum(x0[:, None], x0)
    h = np.minimum(y1[:, None], y1) - np.maximum(y0[:, None], y0)
    layer = np.array([layers[id(n.surface)] for n in order])
    hides = np.triu((w > MEETING) & (h > MEETING) & (layer[:, None] > layer), 1)
    for i, j in zip(*(a.tolist() for a in np.nonzero(hides))):
        if not any(d is order[j] for d in order[i].walk()):
            order[i].attributes["front"] = order[j].attributes["behind"] = "1"
            order[i].reasons.append("seen in front of what follows")
