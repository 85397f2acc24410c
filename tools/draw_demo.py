"""Draw the demo pictures into src/neige/demo/pictures/.

Two are SVG drawn by resvg, as exported mockups are (no browser has touched them); two are pages drawn by Chromium.
Everything is made up and procedural: the Firnwatch network in the Vell range.
"""

from __future__ import annotations

import io
import math
import random
from html import escape
from pathlib import Path

import cv2
import resvg_py
from PIL import Image

from neige.browser import draw_site

ROOT = Path(__file__).resolve().parent.parent
OUT = ROOT / "src" / "neige" / "demo" / "pictures"
FONTS = ROOT / "src" / "neige" / "fonts"
INK, ASH, PAPER, SNOW, FIRN, RED, LINE = (
    "#1f2d38",
    "#5d6f7d",
    "#ffffff",
    "#f2f6f9",
    "#23607a",
    "#c0452a",
    "#d8e1e8",
)
STATIONS = [
    ("Upper Cairn", 2140, 184, "+12"), ("Lantern Hut", 1870, 131, "+4"), ("Saddle of Orn", 2395, 226, "+19"),
    ("Mirrow Col", 2010, 158, "0"), ("Tarn Shelf", 1640, 92, "-3"), ("Bellkeeper", 2275, 203, "+15"),
]  # fmt: skip


class Svg:
    """A few shapes and lines of text, collected into one SVG document."""

    def __init__(self, width: int, height: int, ground: str) -> None:
        self.width, self.height = width, height
        self.parts = [f'<rect width="{width}" height="{height}" fill="{ground}"/>']

    def box(
        self,
        x: float,
        y: float,
        w: float,
        h: float,
        fill: str,
        radius: float = 0,
        stroke: str = "",
        extra: str = "",
    ) -> None:
        line = f' stroke="{stroke}" stroke-width="1"' if stroke else ""
        inset = 0.5 if stroke else 0
        self.parts.append(
            f'<rect x="{x + inset}" y="{y + inset}" width="{w - 2 * inset}" height="{h - 2 * inset}" rx="{radius}" fill="{fill}"{line} {extra}/>'
        )

    def text(
        self,
        x: float,
        y: float,
        words: str,
        size: float,
        family: str = "Lato",
        weight: int = 400,
        fill: str = INK,
        anchor: str = "start",
    ) -> None:
        self.parts.append(
            f'<text x="{x}" y="{y}" font-family="{family}" font-size="{size}" font-weight="{weight}" fill="{fill}" text-anchor="{anchor}">{escape(words)}</text>'
        )

    def lines(
        self, x: float, y: float, rows: list[str], size: float, leading: float, **style: object
    ) -> None:
        for i, row in enumerate(rows):
            self.text(x, y + i * leading, row, size, **style)  # type: ignore[arg-type]

    def shadow(self, x: float, y: float, w: float, h: float, radius: float) -> None:
        self.parts.append(
            f'<rect x="{x}" y="{y + 3}" width="{w}" height="{h}" rx="{radius}" fill="#1f2d38" fill-opacity="0.16" filter="url(#soft)"/>'
        )

    def png(self, zoom: int = 1) -> bytes:
        soft = '<defs><filter id="soft" x="-20%" y="-20%" width="140%" height="150%"><feGaussianBlur stdDeviation="6"/></filter></defs>'
        document = f'<svg xmlns="http://www.w3.org/2000/svg" width="{self.width}" height="{self.height}">{soft}{"".join(self.parts)}</svg>'
        fonts = [str(f) for f in sorted(FONTS.glob("*.ttf")) if f.name.startswith(("lato", "poppins"))]
        return bytes(
            resvg_py.svg_to_bytes(svg_string=document, font_files=fonts, skip_system_fonts=True, zoom=zoom)
        )


def ridge(svg: Svg, x: float, y: float, w: float, h: float, seed: int, radius: float = 10) -> None:
    """A mountain view: sky gradient, three ridges in haze, snow on the nearest, grain over it all so that it reads as a photo."""
    rng = random.Random(seed)
    key = f"r{seed}"
    svg.parts.append(
        f'<defs><linearGradient id="{key}" x2="0" y2="1"><stop offset="0" stop-color="#7fb2cf"/><stop offset="1" stop-color="#f3e3d3"/></linearGradient>'
        f'<clipPath id="c{key}"><rect x="{x}" y="{y}" width="{w}" height="{h}" rx="{radius}"/></clipPath></defs><g clip-path="url(#c{key})">'
        f'<rect x="{x}" y="{y}" width="{w}" height="{h}" fill="url(#{key})"/>'
    )
    for depth, colour in ((0.42, "#a9bccb"), (0.58, "#7f97aa"), (0.74, "#4d6579")):
        points, px = [(x, y + h)], x
        while px < x + w + 20:
            points.append(
                (px, y + h * depth - rng.uniform(0.02, 0.2) * h * math.sin((px - x) / w * math.pi + depth))
            )
            px += rng.uniform(0.04, 0.1) * w
        points.append((x + w, y + h))
        svg.parts.append(
            f'<polygon points="{" ".join(f"{a:.1f},{b:.1f}" for a, b in points)}" fill="{colour}"/>'
        )
    for _ in range(int(w * h / 16)):
        a, b, r = x + rng.random() * w, y + rng.random() * h, rng.uniform(0.6, 2.6)
        svg.parts.append(
            f'<circle cx="{a:.1f}" cy="{b:.1f}" r="{r:.1f}" fill="{"#ffffff" if rng.random() < 0.6 else "#22394a"}" fill-opacity="{rng.uniform(0.04, 0.18):.2f}"/>'
        )
    svg.parts.append("</g>")


def flake(svg: Svg, cx: float, cy: float, r: float, colour: str) -> None:
    for k in range(3):
        a = k * math.pi / 3
        dx, dy = r * math.cos(a), r * math.sin(a)
        svg.parts.append(
            f'<path d="M{cx - dx:.2f} {cy - dy:.2f}L{cx + dx:.2f} {cy + dy:.2f}" stroke="{colour}" stroke-width="2.4" stroke-linecap="round"/>'
        )


def landing() -> bytes:
    s = Svg(1440, 3000, PAPER)
    flake(s, 162, 40, 11, FIRN)
    s.text(184, 47, "Firnwatch", 22, "Poppins", 600)
    for i, (x, word) in enumerate(
        ((760, "Stations"), (868, "Bulletin"), (966, "Observers"), (1084, "Method"))
    ):
        s.text(x, 46, word, 16, weight=700 if i == 0 else 400, fill=INK if i == 0 else ASH)
    s.box(1174, 20, 116, 40, FIRN, 6)
    s.text(1232, 45, "Join us", 16, weight=700, fill=PAPER, anchor="middle")
    s.box(0, 80, 1440, 600, SNOW)
    s.lines(150, 234, ["Forty stations,", "one snowpack"], 56, 64, family="Poppins", weight=600)
    s.lines(
        150,
        360,
        [
            "Volunteers read the stakes at dawn, in every weather.",
            "You see the depths before breakfast, station by station,",
            "with the history of forty winters behind them.",
        ],
        20,
        32,
        fill=ASH,
    )
    s.box(150, 466, 176, 52, RED, 8)
    s.text(238, 498, "Find a station", 17, weight=700, fill=PAPER, anchor="middle")
    s.box(342, 466, 176, 52, PAPER, 8, LINE)
    s.text(430, 498, "Read the bulletin", 17, weight=400, anchor="middle")
    ridge(s, 760, 160, 530, 440, 7)
    s.text(720, 790, "What the network does", 36, "Poppins", 600, anchor="middle")
    s.text(720, 834, "Three things, every morning from November to May.", 18, fill=ASH, anchor="middle")
    items = (
        (
            "Measures",
            [
                "Depth, new snow, density and air",
                "temperature, read by hand on a",
                "painted stake and a plain scale.",
            ],
        ),
        (
            "Checks",
            [
                "Two observers compare each value",
                "with the stations around it before",
                "it goes into the record.",
            ],
        ),
        (
            "Publishes",
            [
                "A bulletin at seven, open data at",
                "eight, and a warning at once when",
                "the wind has loaded a slope.",
            ],
        ),
    )
    for i, (title, rows) in enumerate(items):
        x = 150 + i * 388
        s.shadow(x, 890, 364, 250, 12)
        s.box(x, 890, 364, 250, PAPER, 12)
        s.parts.append(f'<circle cx="{x + 52}" cy="942" r="24" fill="#dcebf2"/>')
        flake(s, x + 52, 942, 10, FIRN)
        s.text(x + 28, 1012, title, 22, "Poppins", 600)
        s.lines(x + 28, 1046, list(rows), 17, 27, fill=ASH)
    s.box(0, 1220, 1440, 900, SNOW)
    s.text(150, 1320, "Depth today", 36, "Poppins", 600)
    s.text(150, 1360, "Centimetres of snow at six in the morning", 18, fill=ASH)
    for i, (name, height, depth, change) in enumerate(STATIONS):
        x, y = 150 + (i % 3) * 388, 1410 + (i // 3) * 330
        s.box(x, y, 364, 300, PAPER, 4, LINE)
        ridge(s, x + 1, y + 1, 362, 150, 20 + i, 0)
        s.text(x + 24, y + 192, name, 20, "Poppins", 600)
        s.text(x + 24, y + 220, f"{height} m above the sea", 15, fill=ASH)
        s.text(x + 24, y + 268, str(depth), 32, "Poppins", 600)
        s.text(x + 92, y + 268, "cm", 16, fill=ASH)
        rising = change.startswith("+")
        s.text(
            x + 340,
            y + 268,
            f"{change} cm since yesterday",
            15,
            weight=700 if rising else 400,
            fill=RED if rising else ASH,
            anchor="end",
        )
    s.box(150, 2200, 1140, 300, FIRN, 16)
    s.text(210, 2296, "Could you read a stake?", 34, "Poppins", 600, fill=PAPER)
    s.lines(
        210,
        2340,
        [
            "Nine stations have no observer this winter. It takes ten minutes a",
            "morning, warm boots, and handwriting that others can read.",
        ],
        19,
        30,
        fill="#d5e6ee",
    )
    s.box(210, 2400, 200, 52, PAPER, 8)
    s.text(310, 2432, "Become an observer", 17, weight=700, fill=FIRN, anchor="middle")
    s.box(0, 2600, 1440, 400, INK)
    s.text(150, 2690, "Firnwatch", 22, "Poppins", 600, fill=PAPER)
    s.lines(
        150,
        2726,
        ["A volunteer network of", "snow-measuring stations", "in the Vell range."],
        16,
        26,
        fill="#a9bac6",
    )
    for x, head, rows in (
        (620, "Network", ["Stations", "Observers", "Method"]),
        (860, "Data", ["Bulletin", "Archive", "Open files"]),
        (1100, "About", ["Contact", "Press", "Licence"]),
    ):
        s.text(x, 2690, head, 16, weight=700, fill=PAPER)
        s.lines(x, 2726, list(rows), 16, 32, fill="#a9bac6")
    s.box(150, 2880, 1140, 1, "#3b4c59")
    s.text(
        150,
        2930,
        "© 2026 Firnwatch. Readings are made by volunteers and checked by hand.",
        14,
        fill="#a9bac6",
    )
    return s.png()


def report() -> bytes:
    s = Svg(390, 844, SNOW)
    s.box(0, 0, 390, 64, PAPER)
    s.box(0, 63, 390, 1, LINE)
    flake(s, 34, 32, 9, FIRN)
    s.text(52, 39, "Firnwatch", 19, "Poppins", 600)
    s.text(24, 116, "Report a depth", 28, "Poppins", 600)
    s.lines(
        24,
        148,
        ["Read the stake twice and enter the lower", "value. It takes less than a minute."],
        16,
        24,
        fill=ASH,
    )
    y = 206
    for label, value in (
        ("Station", "Upper Cairn"),
        ("Your email", "name@firnwatch.example"),
        ("Depth in cm", "184"),
    ):
        s.text(24, y + 10, label, 15, weight=700)
        s.box(24, y + 22, 342, 48, PAPER, 8, "#b9c7d1")
        s.text(40, y + 52, value, 16, fill="#6f808d")
        y += 96
    s.box(24, y + 4, 20, 20, PAPER, 4, "#8fa2af")
    s.text(54, y + 20, "The stake was tilted or drifted in", 16)
    s.box(24, y + 50, 342, 52, RED, 8)
    s.text(195, y + 82, "Send the reading", 17, weight=700, fill=PAPER, anchor="middle")
    s.text(195, y + 142, "No signal? Note it down and send it later.", 14, fill=ASH, anchor="middle")
    s.text(195, 812, "© 2026 Firnwatch", 13, fill=ASH, anchor="middle")
    return s.png(2)


FACE = '@font-face{{font-family:"{0}";src:url("fonts/{1}.ttf");font-weight:100 900}}'
DASHBOARD = """<!doctype html><html lang="en"><meta charset="utf-8"><title>Stations</title><style>{faces}
*{{box-sizing:border-box;margin:0}}body{{font:400 15px/1.5 Inter;color:#1f2d38;background:#f2f5f8;display:grid;grid-template-columns:232px 1fr;min-height:1120px}}
aside{{background:#16313f;color:#c4d5de;padding:28px 20px}}aside b{{display:block;color:#fff;font-size:19px;font-weight:700;margin-bottom:32px}}aside a{{display:block;padding:9px 14px;border-radius:6px;margin-bottom:4px}}
aside a.on{{background:#24495b;color:#fff;font-weight:600}}aside small{{display:block;margin:26px 14px 8px;font-size:12px;letter-spacing:.08em;color:#84a0ae}}
main{{padding:32px 40px}}header{{display:flex;justify-content:space-between;align-items:center;margin-bottom:28px}}h1{{font-size:28px;line-height:1.2;font-weight:700}}.go{{background:#c0452a;color:#fff;font-weight:600;padding:10px 20px;border-radius:6px}}
.cards{{display:grid;grid-template-columns:repeat(4,1fr);gap:20px;margin-bottom:28px}}.card{{background:#fff;border:1px solid #dbe3e9;border-radius:8px;padding:20px 22px}}.card span{{font-size:13px;color:#5d6f7d}}.card strong{{display:block;font-size:30px;line-height:1.25;font-weight:700;margin-top:4px}}.card em{{font-style:normal;font-size:13px;color:#c0452a}}
.panel{{background:#fff;border:1px solid #dbe3e9;border-radius:8px}}.panel h2{{font-size:18px;font-weight:600;padding:18px 22px}}table{{width:100%;border-collapse:collapse}}th{{text-align:left;font-size:13px;font-weight:600;color:#5d6f7d;background:#f7f9fb}}th,td{{padding:12px 22px;border-top:1px solid #e3e9ee}}td.n,th.n{{text-align:right}}
.tag{{background:#dff0e4;color:#1f6b3a;font-size:12px;font-weight:600;padding:3px 10px;border-radius:99px}}.tag.late{{background:#fbe6de;color:#a23a1f}}footer{{margin-top:28px;color:#5d6f7d;font-size:13px}}</style>
<aside><b>Firnwatch</b><a class="on">Overview</a><a>Stations</a><a>Observers</a><a>Bulletins</a><small>RECORD</small><a>Archive</a><a>Corrections</a></aside>
<main><header><h1>Stations this morning</h1><a class="go">Report depth</a></header>
<div class="cards"><div class="card"><span>Stations reporting</span><strong>37 of 40</strong><em>3 overdue</em></div><div class="card"><span>Mean depth</span><strong>166 cm</strong><em>+8 since yesterday</em></div><div class="card"><span>Deepest</span><strong>226 cm</strong><em>Saddle of Orn</em></div><div class="card"><span>Air at 2000 m</span><strong>-11 °C</strong><em>falling</em></div></div>
<section class="panel"><h2>Latest readings</h2><table><tr><th>Station</th><th>Observer</th><th class="n">Height</th><th class="n">Depth</th><th class="n">Change</th><th>State</th></tr>{rows}</table></section><footer>© 2026 Firnwatch. Times are local to the Vell range.</footer></main></html>"""
ARTICLE = """<!doctype html><html lang="en"><meta charset="utf-8"><title>Bulletin</title><style>{faces}
*{{box-sizing:border-box;margin:0}}body{{font:400 19px/1.6 "Source Serif 4";color:#22303a;background:#fff}}header{{border-bottom:1px solid #d8e1e8;padding:22px 120px;display:flex;justify-content:space-between;font:400 16px/1.5 "Work Sans"}}header b{{font-weight:700;font-size:20px}}header nav{{display:flex;gap:32px;color:#5d6f7d}}
article{{width:680px;margin:72px auto 0}}.kind{{font:600 14px/1.4 "Work Sans";color:#c0452a}}h1{{font-size:48px;line-height:1.15;font-weight:700;margin:12px 0 20px}}.by{{font:400 15px/1.5 "Work Sans";color:#5d6f7d;margin-bottom:40px}}p{{margin-bottom:24px}}h2{{font-size:28px;line-height:1.25;font-weight:700;margin:44px 0 16px}}
blockquote{{border-left:4px solid #23607a;padding:4px 0 4px 28px;margin:36px 0;font-style:normal;font-size:24px;line-height:1.45;color:#23607a}}ul{{padding-left:26px;margin-bottom:24px}}li{{margin-bottom:8px}}a{{color:#23607a;text-decoration:underline}}.note{{background:#f2f6f9;border-radius:10px;padding:24px 28px;font:400 16px/1.6 "Work Sans";margin:40px 0}}.note b{{font-weight:600;display:block;margin-bottom:4px}}
footer{{background:#1f2d38;color:#a9bac6;font:400 15px/1.5 "Work Sans";padding:36px 120px;margin-top:80px}}</style>
<header><b>Firnwatch</b><nav><a style="text-decoration:none;color:inherit">Stations</a><a style="text-decoration:none;color:inherit">Bulletin</a><a style="text-decoration:none;color:inherit">Observers</a></nav></header>
<article><div class="kind">Bulletin 14, second week of January</div><h1>Wind has moved more snow than the sky has</h1><div class="by">Written at Lantern Hut by Ada Morrow, checked by two stations</div>
<p>Nine centimetres fell over the week, which is little for the season. The stakes tell another story: on the lee side of the Orn saddle the snowpack grew by forty, while the windward shelf lost as much as it had gained since the new year.</p>
<p>What looks like a quiet week on the <a>depth chart</a> was a week of transport. Observers at six stations noted drifting by eye before the numbers showed it, and their notes are the reason this bulletin is early.</p>
<h2>What the stakes say</h2><p>Depth alone hides the change. Read together with density, the three upper stations show a hard slab over an older and weaker layer that formed in the clear nights of December.</p>
<blockquote>A stake is a simple thing. It asks only that somebody walks to it every morning and tells the truth.</blockquote>
<p>We ask observers above two thousand metres to do three things until the wind turns:</p><ul><li>Read the stake on both sides and note the difference.</li><li>Press a glove into the surface and write down how far it sinks.</li><li>Stay off the slopes above the path to Tarn Shelf.</li></ul>
<div class="note"><b>How this bulletin is made</b>Values come from forty volunteer stations, read at six in the morning and compared with their neighbours before they are printed.</div>
<p>The next bulletin follows on Thursday, or at once if the wind loads the south side.</p></article><footer>© 2026 Firnwatch. Readings are made by volunteers and checked by hand.</footer></html>"""


def by_browser(html: str, folder: Path, faces: dict[str, str], width: int, **values: str) -> bytes:
    (folder / "index.html").write_text(
        html.format(faces="".join(FACE.format(k, v) for k, v in faces.items()), **values)
    )
    target = folder / "fonts"
    target.mkdir(exist_ok=True)
    for name in faces.values():
        (target / f"{name}.ttf").write_bytes((FONTS / f"{name}.ttf").read_bytes())
    drawing = draw_site(str(folder), width)
    return cv2.imencode(".png", drawing.pixels[:, :, ::-1])[1].tobytes()


def main() -> None:
    import tempfile

    OUT.mkdir(parents=True, exist_ok=True)
    rows = "".join(
        f'<tr><td>{n}</td><td>{who}</td><td class="n">{h} m</td><td class="n">{d} cm</td><td class="n">{c} cm</td><td><span class="tag{" late" if late else ""}">{"Late" if late else "Checked"}</span></td></tr>'
        for (n, h, d, c), who, late in zip(
            STATIONS * 2,
            (
                "Ada Morrow",
                "Jon Velt",
                "Ines Carrow",
                "Pia Lund",
                "Tam Oster",
                "Wil Haze",
                "Nora Bly",
                "Ed Farrow",
            ),
            (0, 0, 0, 1, 0, 0, 1, 0),
        )
    )
    with tempfile.TemporaryDirectory() as a, tempfile.TemporaryDirectory() as b:
        pictures = {
            "firnwatch-landing.png": landing(),
            "depth-report.png": report(),
            "station-dashboard.png": by_browser(
                DASHBOARD, Path(a), {"Inter": "inter-normal"}, 1440, rows=rows
            ),
            "bulletin-article.png": by_browser(
                ARTICLE,
                Path(b),
                {"Source Serif 4": "source-serif-4-normal", "Work Sans": "work-sans-normal"},
                1440,
            ),
        }
    for name, content in pictures.items():
        out = io.BytesIO()
        Image.open(io.BytesIO(content)).convert("RGB").save(out, "PNG", optimize=True)
        (OUT / name).write_bytes(out.getvalue())
        print(name, len(out.getvalue()) // 1000, "kB")


if __name__ == "__main__":
    main()
