"""Random panels drawn by Chromium and read back: `python -m bench.surfaces [PAGES]`.

Every page has six panels with a panel inside each: fills flat or a linear gradient, radii, borders, shadows, all random (seeded). The
table gives the share found (IoU 0.7) and the median and 90th percentile error of each parameter, as PNG and as JPEG of quality 80.
"""

from __future__ import annotations

import io
import sys

import numpy as np
from PIL import Image

from neige.browser import draw_page
from neige.core.intake import open_picture
from neige.core.model import Page, Rect, Surface
from neige.core.reading.colour import from_hex
from neige.core.reading.surfaces import read_surfaces

WIDTH = 1200
FILLS = ("#ffffff", "#2c6175", "#c0452a", "#eef2f5", "#1f2d38")


def panels(rng: np.random.Generator) -> list[dict[str, object]]:
    """Six outer panels in two rows, each with an inner one."""
    out: list[dict[str, object]] = []
    for i in range(6):
        w, h = int(rng.integers(220, 320)), int(rng.integers(160, 240))
        x, y = 40 + 385 * (i % 3) + int(rng.integers(0, 20)), 50 + 330 * (i // 3) + int(rng.integers(0, 20))
        outer = {
            "rect": Rect(x, y, w, h), "radius": int(rng.choice([0, 4, 8, 12, 20])), "border": int(rng.choice([0, 0, 1, 2, 4])),
            "fill": str(rng.choice(FILLS[:4])), "shadow": None, "under": None, "angle": None,
        }  # fmt: skip
        if rng.random() < 0.5:
            outer["shadow"] = (
                int(rng.integers(0, 9)),
                int(rng.integers(4, 25)),
                round(float(rng.uniform(0.1, 0.35)), 2),
            )
            if outer["shadow"][1] <= 8:  # a close one: some cast a wide one besides
                outer["under"] = (16, 40, 0.12) if i % 2 else None
        if rng.random() < 0.3:
            outer["angle"] = int(rng.choice([0, 45, 90, 135, 180]))
        inner = {
            "rect": Rect(x + 30, y + 30, w - 60, 50), "radius": int(rng.choice([0, 6, 25])), "border": 0, "fill": FILLS[4],
            "shadow": None, "under": None, "angle": None,
        }  # fmt: skip
        out += [outer, inner]
    return out


def page_of(found: list[dict[str, object]]) -> Page:
    rules, marks = [], []
    for i, p in enumerate(found):
        r = p["rect"]
        assert isinstance(r, Rect)
        fill = p["fill"] if p["angle"] is None else f"linear-gradient({p['angle']}deg, #2c6175, #9fc3d1)"
        cast = [c for c in (p["shadow"], p["under"]) if isinstance(c, tuple)]
        layers = ",".join(f"0 {dy}px {blur}px rgb(0 0 0 / {alpha})" for dy, blur, alpha in cast)
        shadow = f"box-shadow:{layers};" if layers else ""
        border = f"border:{p['border']}px solid #7a8a96;" if p["border"] else ""
        rules.append(
            f".p{i}{{position:absolute;left:{r.x}px;top:{r.y}px;width:{r.w}px;height:{r.h}px;box-sizing:border-box;"
            f"background:{fill};border-radius:{p['radius']}px;{border}{shadow}}}"
        )
        marks.append(f'<div class="p{i}"></div>')
    css = "body{margin:0;background:#f4f6f8;height:740px}" + "".join(rules)
    html = f'<!doctype html><title>x</title><link rel="stylesheet" href="styles.css"><body>{"".join(marks)}</body>'
    return Page(html, css, (), {})


def compare(
    wanted: list[dict[str, object]], found: tuple[Surface, ...], errors: dict[str, list[float]]
) -> None:
    for p in wanted:
        r = p["rect"]
        assert isinstance(r, Rect)
        best = max(found, key=lambda s: s.rect.iou(r), default=None)
        hit = best is not None and best.rect.iou(r) >= 0.7
        errors["found"].append(float(hit))
        if best is None or not hit:
            continue
        edges = (best.rect.x - r.x, best.rect.y - r.y, best.rect.right - r.right, best.rect.bottom - r.bottom)
        errors["edge px"].append(max(abs(e) for e in edges))
        errors["radius px"].append(abs(best.radius - float(p["radius"])))  # type: ignore[arg-type]
        errors["border px"].append(abs(max(best.border) - float(p["border"])))  # type: ignore[arg-type]
        errors["shadow there or not"].append(float((best.shadow is None) == (p["shadow"] is None)))
        if best.shadow is not None and isinstance(p["shadow"], tuple):
            dy, blur, alpha = p["shadow"]
            errors["one shadow or two"].append(float((best.shadow.under is None) == (p["under"] is None)))
            errors["shadow offset px"].append(abs(best.shadow.dy - dy))
            errors["shadow blur px"].append(abs(best.shadow.blur - blur))
            errors["shadow opacity"].append(abs(best.shadow.opacity - alpha))
        if p["angle"] is None:
            errors["fill, 8-bit steps"].append(
                float(np.abs(from_hex(best.fill.colour) - from_hex(str(p["fill"]))).max())
                if not best.fill.stops
                else 255.0
            )
        elif best.fill.stops:
            off = abs((best.fill.angle - float(p["angle"]) + 180) % 360 - 180)  # type: ignore[arg-type]
            errors["gradient angle, degrees"].append(min(off, 180 - off))


def run(pages: int) -> None:
    for kind in ("PNG", "JPEG 80"):
        rng = np.random.default_rng(20)
        errors: dict[str, list[float]] = {
            k: []
            for k in (
                "found", "edge px", "radius px", "border px", "shadow there or not", "one shadow or two", "shadow offset px",
                "shadow blur px", "shadow opacity", "fill, 8-bit steps", "gradient angle, degrees",
            )
        }  # fmt: skip
        for _ in range(pages):
            wanted = panels(rng)
            out = io.BytesIO()
            pixels = draw_page(page_of(wanted), WIDTH).pixels
            Image.fromarray(pixels).save(out, "PNG" if kind == "PNG" else "JPEG", quality=80)
            compare(wanted, read_surfaces(open_picture(out.getvalue(), kind), []).surfaces, errors)
        print(f"\n| {kind}, {pages} pages | n | median or share | 90 % within |\n| --- | --- | --- | --- |")
        for name, values in errors.items():
            share = name in ("found", "shadow there or not", "one shadow or two")
            v = np.array(values or [np.nan])
            middle = f"{100 * v.mean():.1f} %" if share else f"{np.median(v):.2f}"
            print(f"| {name} | {len(values)} | {middle} | {'' if share else f'{np.quantile(v, 0.9):.2f}'} |")


if __name__ == "__main__":
    run(int(sys.argv[1]) if len(sys.argv) > 1 else 20)
