"""How well text and type are read: `python -m bench.type [FAMILY...]`.

For every catalogue family a sheet of lines is drawn, all its weights at sizes from 11 to 64 px, on plain, dark, coloured and
busy grounds: once by Chromium and once by resvg, from the same SVG. The reading is compared with what was set, and a Markdown
table printed: share of words exactly right, and of those the share with the right size (4 %), family, weight (100), ink (ΔE00 3).
"""

from __future__ import annotations

import itertools
import sys
import tempfile
from collections import defaultdict
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass
from html import escape
from pathlib import Path

import cv2
import numpy as np
import resvg_py
from PIL import Image
from skimage.color import deltaE_ciede2000, rgb2lab

from neige.browser import draw_site
from neige.core.intake import open_picture
from neige.core.reading import read
from neige.core.reading.overlay import png
from neige.core.reading.type.catalogue import Instance, catalogue

FONTS = Path(__file__).resolve().parent.parent / "src" / "neige" / "fonts"
SIZES = (11, 13, 14, 16, 18, 21, 28, 40, 64)
SENTENCE = (
    "Forty stations stand on the ridge above Vell and every morning a volunteer reads how deep the snow lies"
)
GROUNDS = (
    ("plain", "#ffffff", "#22303a"),
    ("dark", "#16313f", "#e6edf2"),
    ("colour", "#c0452a", "#ffffff"),
    ("busy", "", "#ffffff"),
)
WIDTH = 1000


@dataclass(frozen=True)
class Set:
    """One line as it was set."""

    text: str
    baseline: float
    size: float
    weight: int
    ink: str
    ground: str


def sheet(family: str) -> tuple[str, list[Set]]:
    """(SVG, its lines): every weight of the family's upright faces at every size, grounds in turn."""
    weights = sorted(
        {i.weight for i in catalogue().instances if i.face.family == family and not i.face.italic}
    )
    parts, lines, y = [], [], 0.0
    words = itertools.cycle(SENTENCE.split())
    order = [(w, s) for w in weights for s in SIZES]
    for n, (weight, size) in enumerate(order):
        ground, fill, ink = GROUNDS[n % len(GROUNDS)]
        height = round(size * 1.9)
        if fill:
            parts.append(f'<rect y="{y}" width="{WIDTH}" height="{height}" fill="{fill}"/>')
        else:  # a soft, dark picture
            parts.append(
                "".join(
                    f'<rect x="{x}" y="{y}" width="40" height="{height}" fill="hsl({200 + 3 * ((x // 40) % 7)} 40% {24 + (x // 40) % 5}%)"/>'
                    for x in range(0, WIDTH, 40)
                )
            )
        count = max(2, min(9, round(560 / (size * 3.2))))
        text = " ".join(next(words) for _ in range(count))
        base = y + round(size * 1.25)
        parts.append(
            f'<text x="40" y="{base}" font-family="{escape(family)}" font-size="{size}" font-weight="{weight}" fill="{ink}">{text}</text>'
        )
        lines.append(Set(text, base, size, weight, ink, ground))
        y += height
    size_of = f'width="{WIDTH}" height="{round(y)}" viewBox="0 0 {WIDTH} {round(y)}"'
    return f'<svg xmlns="http://www.w3.org/2000/svg" {size_of}>{"".join(parts)}</svg>', lines


def by_browser(svg: str, faces: list[Instance]) -> np.ndarray:
    with tempfile.TemporaryDirectory() as folder:
        rules = ""
        for face in {i.face for i in faces}:
            (Path(folder) / face.file).write_bytes((FONTS / face.file).read_bytes())
            weight = f"{face.weight_min:g} {face.weight_max:g}" if face.variable else f"{face.weight_min:g}"
            rules += f'@font-face{{font-family:"{face.family}";src:url("{face.file}");font-weight:{weight}}}'
        (Path(folder) / "index.html").write_text(
            f"<!doctype html><style>{rules}*{{margin:0}}svg{{display:block}}</style>{svg}"
        )
        return draw_site(folder, WIDTH).pixels


def by_resvg(svg: str, faces: list[Instance]) -> np.ndarray:
    files = [str(FONTS / f) for f in sorted({i.face.file for i in faces})]
    drawn = resvg_py.svg_to_bytes(svg_string=svg, font_files=files, skip_system_fonts=True)
    image = cv2.imdecode(np.frombuffer(bytes(drawn), np.uint8), cv2.IMREAD_COLOR)
    return np.ascontiguousarray(image[:, :, ::-1])


def judge(family: str) -> list[tuple[str, str, str, dict[str, float]]]:
    """(rasteriser, ground, size band, counts) of every line of one family."""
    faces = [i for i in catalogue().instances if i.face.family == family and not i.face.italic]
    svg, lines = sheet(family)
    out = []
    drawings = {"Chromium": by_browser(svg, faces)}
    if not any(i.face.variable for i in faces):  # resvg draws only the default weight of a variable face
        drawings["resvg"] = by_resvg(svg, faces)
    for name, pixels in drawings.items():
        reading = read(open_picture(png(pixels), "sheet.png", scale=1))
        for line in lines:
            found = [
                w for r in reading.lines if abs(r.baseline - line.baseline) < 0.4 * line.size for w in r.words
            ]
            texts = defaultdict(list)
            for w in found:
                texts[w.text].append(reading.styles[w.style])
            counts: dict[str, float] = defaultdict(float)
            for word in line.text.split():
                counts["words"] += 1
                if not texts[word]:
                    continue
                s = texts[word].pop()
                counts["found"] += 1
                counts["size"] += abs(s.size - line.size) <= 0.04 * line.size
                counts["family"] += s.family == family
                counts["weight"] += abs(s.weight - line.weight) <= 100
                counts["ink"] += _delta_e(s.colour, line.ink) <= 3
            band = "11–14" if line.size <= 14 else "16–21" if line.size <= 21 else "28–64"
            out.append((name, line.ground, band, dict(counts)))
    return out


def _delta_e(a: str, b: str) -> float:
    lab = [rgb2lab(np.array([[[int(c[i : i + 2], 16) / 255 for i in (1, 3, 5)]]])) for c in (a, b)]
    return float(deltaE_ciede2000(*lab)[0, 0])


def main() -> None:
    families = sys.argv[1:] or list(catalogue().families)
    totals: dict[tuple[str, str, str], dict[str, float]] = defaultdict(lambda: defaultdict(float))
    with ProcessPoolExecutor(2) as pool:
        for rows in pool.map(judge, families):
            for name, ground, band, counts in rows:
                for key in ((name, ground, band), (name, "all", "all")):
                    for k, v in counts.items():
                        totals[key][k] += v
    print("| drawn by | ground | size, px | words | exact | size | family | weight | ink |")
    print("| --- | --- | --- | --- | --- | --- | --- | --- | --- |")
    for (name, ground, band), t in sorted(totals.items()):
        shares = [
            t["found"] / t["words"],
            *(t[k] / max(1, t["found"]) for k in ("size", "family", "weight", "ink")),
        ]
        print(
            f"| {name} | {ground} | {band} | {t['words']:.0f} | "
            + " | ".join(f"{100 * v:.1f} %" for v in shares)
            + " |"
        )


if __name__ == "__main__":
    Image.MAX_IMAGE_PIXELS = None
    main()
