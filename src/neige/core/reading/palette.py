"""The palette: colours by area and role, near-duplicates merged, with names; and every ink's contrast on its ground."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from neige.core.model import Contrast, Fill, Line, PaletteEntry, Picture, Surface, TypeStyle
from neige.core.reading.colour import chroma, contrast, from_hex, oklab, pack, to_hex, unpack

ENTRIES = 12
INKS = 8
SAME = 0.02  # OKLab distance below which two colours are one entry
SEEN = 0.002  # of the picture's area from which a colour counts
STRONG = 0.09  # OKLab chroma of an accent
LARGE, LARGE_BOLD = 24.0, 18.66  # px: text from these sizes needs less contrast (WCAG 2.2, 1.4.3)


def find_palette(
    picture: Picture, background: Fill, surfaces: Sequence[Surface], styles: Sequence[TypeStyle]
) -> list[PaletteEntry]:
    """The colours that matter: the page's, its surfaces' and pictures' by area, its inks by use."""
    sample = picture.pixels[:: max(1, picture.pixels.shape[0] // 900), ::2]
    values, counts = np.unique(pack(sample), return_counts=True)
    order = np.argsort(-counts, kind="stable")[:60]
    total = float(counts.sum())
    entries: list[PaletteEntry] = []

    def add(colour: str, share: float, role: str) -> None:
        lab = oklab(from_hex(colour))
        for i, e in enumerate(entries):
            if float(np.linalg.norm(oklab(from_hex(e.colour)) - lab)) < SAME:
                entries[i] = replace(e, share=round(e.share + share, 4))
                return
        entries.append(PaletteEntry(colour, round(share, 4), role))

    add(background.colour, 0.0, "page")
    fills = {s.fill.colour for s in surfaces}
    for i in order:
        colour = to_hex(unpack(int(values[i])))
        if counts[i] / total >= SEEN:
            add(
                colour,
                float(counts[i] / total),
                "surface" if colour in fills or len(entries) < 4 else "picture",
            )
    entries = entries[:ENTRIES]
    for s in sorted(styles, key=lambda s: -s.lines)[:INKS]:
        add(s.colour, 0.0, "text")
    return _named(entries)


def _named(entries: list[PaletteEntry]) -> list[PaletteEntry]:
    """Token names: page, surface, accent, ink, ink-muted, and numbers where a role has several."""
    page = next((e.colour for e in entries if e.role == "page"), "#ffffff")
    inks = [e for e in entries if e.role == "text"]
    strongest = max(inks, key=lambda e: contrast(e.colour, page), default=None)
    strong = [e for e in entries if chroma(e.colour) > STRONG]
    out, used = [], set[str]()
    for e in entries:
        if e.role == "page":
            base = "page"
        elif strong and e is strong[0]:
            base = "accent"
        elif chroma(e.colour) > STRONG:
            base = "accent-other"
        elif e.role == "text":
            base = "ink" if e is strongest else "ink-muted"
        else:
            base = "surface" if e.role == "surface" else "tint"
        name, n = base, 2
        while name in used:
            name, n = f"{base}-{n}", n + 1
        used.add(name)
        out.append(replace(e, name=name))
    return out


def contrasts(lines: Sequence[Line], styles: Sequence[TypeStyle]) -> list[Contrast]:
    """Every pair of ink and ground, the least legible first. `needed` is what WCAG 2.2 level AA asks of its smallest text."""
    pairs: dict[tuple[str, str], Contrast] = {}
    for n in lines:
        s = styles[n.style]
        large = s.size >= LARGE or (s.size >= LARGE_BOLD and s.weight >= 700)
        needed = 3.0 if large else 4.5
        key = (s.colour, n.ground)
        old = pairs.get(key)
        pairs[key] = (
            replace(old, lines=old.lines + 1, needed=max(old.needed, needed))
            if old
            else Contrast(s.colour, n.ground, round(contrast(s.colour, n.ground), 2), needed, 1)
        )
    return sorted(pairs.values(), key=lambda c: (c.ratio - c.needed, c.ink, c.ground))
