"""Build the font catalogue that the type fitter works with: `src/neige/fonts/` (TrueType files and `catalogue.json`).

The families come from the npm packages named in `fonts/package.json` (Latin files) and from Debian packages:
`fonts-dejavu-*` and `fonts-liberation`, whose faces stand in for the system fonts of most screens, and `fonts-lato`, the
second edition of Lato, whose widths differ from those of the first (which is the one in npm); both are common on the web. The folder is
made, not committed: run this once after `npm ci` in `fonts/`; `make setup` does.
"""

from __future__ import annotations

import json
import re
import shutil
import sys
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path
from typing import Any

import numpy as np
import uharfbuzz as hb
from fontTools.ttLib import TTFont

ROOT = Path(__file__).resolve().parent.parent
OUT = ROOT / "src" / "neige" / "fonts"
NPM = ROOT / "fonts" / "node_modules"
DEBIAN = Path("/usr/share/fonts/truetype")
STATIC_WEIGHTS = (300, 400, 500, 600, 700, 800)
MONO = re.compile(r"mono|code|courier|inconsolata", re.I)

# Debian faces: family, category, licence file, {weight/style: file}
SYSTEM = (
    (
        "DejaVu Sans", "sans-serif", "fonts-dejavu-core", {
            "300": "dejavu/DejaVuSans-ExtraLight.ttf", "400": "dejavu/DejaVuSans.ttf", "700": "dejavu/DejaVuSans-Bold.ttf",
            "400i": "dejavu/DejaVuSans-Oblique.ttf", "700i": "dejavu/DejaVuSans-BoldOblique.ttf",
        },
    ),
    *(
        (f"DejaVu {name}", category, "fonts-dejavu-core", {
            "400": f"dejavu/DejaVu{file}.ttf", "700": f"dejavu/DejaVu{file}-Bold.ttf", "400i": f"dejavu/DejaVu{file}-{slant}.ttf",
            "700i": f"dejavu/DejaVu{file}-Bold{slant}.ttf",
        })
        for name, category, file, slant in (("Serif", "serif", "Serif", "Italic"), ("Sans Mono", "monospace", "SansMono", "Oblique"))
    ),
    (
        "Lato 2", "sans-serif", "fonts-lato", {
            "300": "lato/Lato-Light.ttf", "400": "lato/Lato-Regular.ttf", "500": "lato/Lato-Medium.ttf", "600": "lato/Lato-Semibold.ttf",
            "700": "lato/Lato-Bold.ttf", "800": "lato/Lato-Heavy.ttf", "400i": "lato/Lato-Italic.ttf", "700i": "lato/Lato-BoldItalic.ttf",
        },
    ),
    *(
        (f"Liberation {name}", category, "fonts-liberation", {
            key: f"liberation/Liberation{name}-{style}.ttf"
            for key, style in (("400", "Regular"), ("700", "Bold"), ("400i", "Italic"), ("700i", "BoldItalic"))
        })
        for name, category in (("Sans", "sans-serif"), ("Serif", "serif"), ("Mono", "monospace"))
    ),
)  # fmt: skip


def metrics(font: TTFont) -> dict[str, float]:
    """Vertical metrics in em as Chromium takes them: OS/2 typo values if fsSelection bit 7 asks for them, else hhea."""
    os2, hhea, upem = font["OS/2"], font["hhea"], font["head"].unitsPerEm
    if os2.fsSelection & (1 << 7):
        ascent, descent, gap = os2.sTypoAscender, -os2.sTypoDescender, os2.sTypoLineGap
    else:
        ascent, descent, gap = hhea.ascent, -hhea.descent, hhea.lineGap
    return {
        "ascent": ascent / upem,
        "descent": descent / upem,
        "line_gap": gap / upem,
        "x_height": getattr(os2, "sxHeight", 0) / upem,
        "cap_height": getattr(os2, "sCapHeight", 0) / upem,
    }


def convert(source: Path, target: Path) -> tuple[dict[str, float], list[float] | None]:
    """Write `source` (WOFF2 or TrueType) as plain TrueType; its metrics and, if variable, its weight range."""
    font = TTFont(source)
    font.flavor = None
    font.save(target)
    axes = {a.axisTag: a for a in font["fvar"].axes} if "fvar" in font else {}
    wght = axes.get("wght")
    return metrics(font), [wght.minValue, wght.maxValue] if wght else None


def sources() -> list[dict[str, Any]]:
    faces: list[dict[str, Any]] = []
    for package in sorted(NPM.glob("@fontsource*/*")):
        meta = json.loads((package / "metadata.json").read_text())
        base = {
            "family": meta["family"],
            "category": "monospace" if MONO.search(meta["family"]) else meta["category"],
            "licence": meta["license"]["type"],
            "licence_source": str(package / "LICENSE"),
        }
        for style, italic in (("normal", False), ("italic", True)):
            if "variable" in package.parent.name:
                file = package / "files" / f"{meta['id']}-latin-wght-{style}.woff2"
                if file.is_file():
                    faces.append(base | {"source": str(file), "italic": italic, "weight": 0})
                continue
            for weight in STATIC_WEIGHTS if not italic else (400,):
                file = package / "files" / f"{meta['id']}-latin-{weight}-{style}.woff2"
                if file.is_file():
                    faces.append(base | {"source": str(file), "italic": italic, "weight": weight})
    for family, category, package, files in SYSTEM:
        for key, name in files.items():
            licence = Path("/usr/share/doc") / package / "copyright"
            faces.append({
                "family": family, "category": category, "licence": "Bitstream-Vera" if "DejaVu" in family else "OFL-1.1",
                "licence_source": str(licence), "source": str(DEBIAN / name), "italic": key.endswith("i"),
                "weight": int(key.rstrip("i")), "system": package != "fonts-lato",
            })  # fmt: skip
    return faces


def build(face: dict[str, Any]) -> dict[str, Any]:
    source = Path(face["source"])
    target = OUT / (re.sub(r"-latin|-wght", "", source.stem) + ".ttf")
    measured, wght = convert(source, target)
    weight = wght or [face["weight"], face["weight"]]
    slug = face["family"].lower().replace(" ", "-")
    licence = OUT / "licences" / f"{slug}.txt"
    if not licence.exists() and Path(face["licence_source"]).exists():
        shutil.copyfile(face["licence_source"], licence)
    return {
        "family": face["family"], "category": face["category"], "file": target.name, "weight_min": weight[0],
        "weight_max": weight[1], "variable": wght is not None, "italic": face["italic"], "licence": face["licence"],
        "licence_file": f"licences/{slug}.txt", "system": face.get("system", False), **measured,
    }  # fmt: skip


# The characters whose widths and boxes are tabulated: Latin-1, Latin Extended-A's commonest, and typographic marks.
CHARACTERS = (
    [chr(c) for c in range(0x20, 0x7F)]
    + [chr(c) for c in range(0xA1, 0x180)]
    + list("–—‘’‚“”„†‡•…‹›€™←↑→↓−×≤≥≈≠√∞ﬁﬂ")
)
WEIGHTS = (300, 400, 500, 600, 700, 800, 900)


def tabulate(faces: list[dict[str, Any]]) -> None:
    """Write metrics.npz: for every face at every usual weight, the advance and box of each character in em (NaN: not there)."""
    rows, index = [], []
    for number, face in enumerate(faces):
        hb_face = hb.Face(hb.Blob.from_file_path(str(OUT / face["file"])))
        font = hb.Font(hb_face)
        if face["variable"]:
            weights = [
                w
                for w in WEIGHTS
                if face["weight_min"] <= w <= face["weight_max"]
                and (not face["italic"] or w in (300, 400, 600, 700))
            ]
        else:
            weights = [int(face["weight_min"])]
        for weight in weights:
            if face["variable"]:
                font.set_variations({"wght": weight})
            table = np.full((len(CHARACTERS), 5), np.nan, np.float32)
            for i, char in enumerate(CHARACTERS):
                glyph = font.get_nominal_glyph(ord(char))
                if glyph is None:
                    continue
                box = font.get_glyph_extents(glyph)
                x0, y1 = (box.x_bearing, box.y_bearing) if box else (0, 0)
                x1, y0 = (x0 + box.width, y1 + box.height) if box else (0, 0)
                table[i] = (
                    np.array([font.get_glyph_h_advance(glyph), x0, x1, y0, y1], np.float32) / hb_face.upem
                )
            rows.append(table)
            index.append((number, weight))
    np.savez_compressed(
        OUT / "metrics.npz",
        table=np.stack(rows),
        index=np.array(index, np.int32),
        characters=np.array(CHARACTERS),
    )
    print(f"metrics: {len(rows)} instances x {len(CHARACTERS)} characters")


def main() -> None:
    shutil.rmtree(OUT, ignore_errors=True)
    (OUT / "licences").mkdir(parents=True)
    missing = [f["source"] for f in sources() if not Path(f["source"]).is_file()]
    if missing:
        sys.exit(
            f"font files missing (install the Debian packages of tools/system_packages.sh, run npm ci in fonts/): {missing[:3]}"
        )
    with ProcessPoolExecutor() as pool:
        faces = list(pool.map(build, sources(), chunksize=4))
    tabulate(faces)
    (OUT / "catalogue.json").write_text(json.dumps({"version": 1, "faces": faces}, indent=1, sort_keys=True))
    print(f"font catalogue: {len({f['family'] for f in faces})} families, {len(faces)} faces")


if __name__ == "__main__":
    main()
