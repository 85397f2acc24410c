"""Middle dots between words that the recogniser passed over or took for hyphens: "Friday · 3 m"."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from neige.core.reading.text.recognise import Spelling

SMALL = 0.32  # of the ink height: a dot at most
APART = 0.24  # of it: what lies between the dot and the words beside it, at least
HALF_WAY = (0.15, 0.6)  # of it, that its middle stands above the base line
READ = 0.3  # of it: a letter read nearer than this to the dot's middle is the dot,
TAKEN = "-·"  # or what it was taken for,
STOP = "."  # or that, if it stands by itself


def with_dots(
    s: Spelling, runs: Sequence[tuple[int, int]], inked: NDArray[np.bool_], ink_height: float
) -> Spelling:
    """What was read, with the dots that stand between its words. `runs`: columns of ink; `inked`: (h, w)."""
    width = inked.shape[1]
    lowest = [int(np.flatnonzero(inked[:, a:b].any(axis=1))[-1]) + 1 for a, b in runs]
    base = float(np.median(lowest))  # descenders are the fewer
    for before, run, after in zip(runs, runs[1:], runs[2:]):
        rows = np.flatnonzero(inked[:, run[0] : run[1]].any(axis=1))
        high, wide, middle = int(rows[-1]) + 1 - int(rows[0]), run[1] - run[0], (run[0] + run[1]) / 2
        up = (base - (rows[0] + rows[-1] + 1) / 2) / ink_height
        dot = max(high, wide) <= max(2, SMALL * ink_height) and abs(high - wide) <= 1
        apart = min(run[0] - before[1], after[0] - run[1]) >= max(2, APART * ink_height)
        if not (dot and apart and HALF_WAY[0] <= up <= HALF_WAY[1]):
            continue
        near = [i for i, p in enumerate(s.places) if abs(p * width - middle) < READ * ink_height]
        near = [i for i in near if not s.text[i].isspace()]
        alone = len(near) == 1 and s.text[near[0] - 1 : near[0] + 2] == f" {STOP} "
        if any(s.text[i] not in TAKEN for i in near) and not alone:
            continue
        at = near[0] if near else sum(p * width < middle for p in s.places)
        end = near[-1] + 1 if near else at
        signs = (" " if not s.text[:at].endswith(" ") else "") + "·"
        signs += " " if not s.text[end:].startswith(" ") else ""
        s = Spelling(
            s.text[:at] + signs + s.text[end:],
            (*s.places[:at], *(middle / width,) * len(signs), *s.places[end:]),
            (*s.scores[:at], *(1.0,) * len(signs), *s.scores[end:]),
        )
    return s
