"""The browser draws what is handed over, and nothing else."""

from __future__ import annotations

import os
import re
import signal
import subprocess
import tempfile
import threading
import unittest
from dataclasses import replace
from http.server import BaseHTTPRequestHandler, HTTPServer
from pathlib import Path
from unittest import mock

import cv2
import numpy as np
from playwright.sync_api import CDPSession, Error

from neige.browser import Browser, draw_files, draw_page, draw_site
from neige.core import model
from neige.core.errors import BrowserError
from neige.core.model import Page
from neige.core.model.page import Asset
from neige.core.pipeline import build
from neige.core.proof import misplacement
from neige.core.writer import page_files
from tests.support import demo, png, site

HTML = '<!doctype html><html lang="en"><title>t</title><link rel="stylesheet" href="styles.css"><body><main><p>Snow <b>depth</b></p></main></body></html>'
PAGE = Page(HTML, "body{margin:0}p{margin:20px;font:16px sans-serif}", (), {7: (0, 0)})


class Drawing(unittest.TestCase):
    def test_a_picture_that_cannot_be_taken_quickly_is_taken_slowly(self) -> None:
        before = draw_page(PAGE, 320)
        with mock.patch(
            "playwright.sync_api.CDPSession.send", side_effect=Error("Unable to capture screenshot")
        ) as send:
            after = draw_page(PAGE, 320)
        self.assertTrue(send.called)
        np.testing.assert_array_equal(before.pixels, after.pixels)

    def test_words_and_boxes_are_measured(self) -> None:
        d = draw_page(PAGE, 400)
        self.assertEqual([(w.text, w.node) for w in d.words], [("Snow", 7), ("depth", 7)])
        self.assertEqual((d.nodes[7].rect.x, d.nodes[7].rect.w), (20, 360))
        self.assertEqual(d.pixels.shape[1], 400)
        self.assertEqual(d.words[1].weight, 700)

    def test_a_border_in_the_boxs_own_colour_does_not_show(self) -> None:
        for colour, width in (("#1f5f77", 0.0), ("#c04020", 2.0)):
            css = f"{PAGE.css}p{{background:#1f5f77;border:2px solid {colour}}}"
            d = draw_page(Page(HTML, css, (), {}), 400)
            self.assertEqual({b.border for b in d.boxes if b.fill}, {(width,) * 4})

    def written(self, head: str = "", css: str = "", picture: tuple[int, int, int] = (200, 40, 40)) -> Page:
        """A page as Neige writes it, with something put into its head, its rules or its picture by hand."""
        html = f"""<!doctype html>
<html lang="en">
  <head>
    <meta charset="utf-8" />
    <meta name="viewport" content="width=device-width, initial-scale=1" />
    <title>Snow</title>
    <link rel="stylesheet" href="styles.css" />
{head}  </head>
  <body><p>Snow</p><img src="assets/flag.png" width="40" height="40" alt="" /></body>
</html>
"""
        flag = png(np.full((40, 40, 3), picture, np.uint8))
        return Page(html, f"body{{margin:0}}{css}", (Asset("assets/flag.png", flag),), {1: (0,)})

    def test_a_page_is_drawn_alike_however_often_and_whatever_came_before(self) -> None:
        tall = draw_page(self.written(css="p{height:2000px}"), 400)
        first, again = (draw_page(self.written(), 400).pixels for _ in range(2))
        self.assertEqual(tall.pixels.shape[0], round(tall.height))
        self.assertTrue(np.array_equal(first, again))
        half = "p{height:50vh}"
        self.assertEqual(draw_page(self.written(css=half), 400).nodes[1].rect.h, 450)
        draw_page(self.written(css="p{height:2000px}"), 400)
        self.assertEqual(draw_page(self.written(css=half), 400).nodes[1].rect.h, 450)

    def test_other_rules_alone_draw_what_they_would_from_the_start(self) -> None:
        page = self.written()
        draw_page(page, 400)
        for more in ("body{padding-block-end:90px}", "p{color:#c40}", "body{padding-block-end:0}"):
            other = replace(page, css=page.css + more)
            kept = draw_page(other, 400)
            content = {a.path: a.content for a in page_files(other)}
            fresh = draw_files(content, 400)
            self.assertEqual(kept.height, fresh.height, more)
            self.assertTrue(np.array_equal(kept.pixels, fresh.pixels), more)
            self.assertEqual([w.rect for w in kept.words], [w.rect for w in fresh.words])

    PARTS = """<header><h1>Firnwatch</h1><p class="lead">Snow depth, read by hand</p></header>
<main><section class="cards"><article class="card"><h2>Hut</h2><p>182 cm</p></article><article class="card"><h2>Pass</h2><p>240 cm</p></article></section>
<section class="notes"><ul><li>First note</li><li>Second note, with more words than fit into one line of it</li></ul><input value="Vell" /></section></main>
<footer><p>Kept by observers</p></footer>"""
    RULES = """:root { --ground: #eef2f6; --line: #9ab; }
body { margin: 0; background: #fff; font: 16px/24px sans-serif; }
header { padding: 24px 20px; background: var(--ground); }
.lead { color: #456; margin: 0; }
.cards { display: grid; grid-template-columns: 1fr 1fr; gap: 20px; padding: 30px 20px; }
.card { border: 1px solid var(--line); border-radius: 8px; padding: 12px; box-shadow: 0 6px 14px rgb(0 0 0 / 30%); }
.notes { padding: 20px; min-height: 900px; }
.notes li::before { content: "*"; color: #c40; }
footer { margin-block-start: 16px; padding: 20px; background: linear-gradient(#fff, #cde); border-top: 2px solid #345; }
"""

    def test_only_what_may_look_otherwise_is_drawn_again_and_it_is_what_would_be_drawn(self) -> None:
        whole = re.sub(r"<body>.*</body>", f"<body>{self.PARTS}</body>", self.written().html, flags=re.S)
        page = replace(self.written(), html=whole, css=self.RULES, assets=())
        high = len(draw_page(page, 600).pixels)
        for old, new, most in (
            ("color: #456", "color: #a02", 120),  # of a line
            ("--line: #9ab", "--line: #d00", 260),  # a colour that a rule far away uses
            ("padding: 24px 20px", "padding: 28px 20px 24px", 70),  # all below moves by whole px
            ("padding: 24px 20px", "padding: 20px 20px 24px", 70),
            ("padding: 24px 20px", "padding: 24.3px 20px", None),  # and by others
            ("0 6px 14px", "0 30px 40px", None),  # a shadow on what is below
            ("border-radius: 8px", "border-radius: 20px", 200),
            ("min-height: 900px", "min-height: 950px", 250),  # the page is longer, what ends it is at its end
            ("gap: 20px", "gap: 44px", None),
            ("color: #c40", "color: #04c", None),  # of what has no element
            ("#cde", "#edc", 250),
            ("font: 16px/24px", "font: 17px/24px", None),
            ("margin-block-start: 16px", "margin-block-start: 9px", 250),
            ("1fr 1fr", "1fr", None),
            ("border-top: 2px", "border-top: 5px", 300),
        ):
            for css in (self.RULES.replace(old, new), self.RULES):  # there and back
                with self.subTest(change=f"{old} -> {new}"):
                    self.assertNotEqual(self.RULES.replace(old, new), self.RULES)
                    kept, rows = self.rows_drawn(replace(page, css=css), 600)
                    fresh = draw_files({a.path: a.content for a in page_files(replace(page, css=css))}, 600)
                    self.assertEqual(kept.pixels.shape, fresh.pixels.shape)
                    # raster in parts differs from raster at once by a step or two of anti-aliasing
                    self.assertLessEqual(int(cv2.absdiff(kept.pixels, fresh.pixels).max()), 3)
                    self.assertLessEqual(rows, max(high, len(kept.pixels)) if most is None else most)

    def rows_drawn(self, page: Page, width: float) -> tuple[model.Drawing, int]:
        """(a page as it is drawn, how many rows of it the browser was asked for)."""
        asked = []
        send = CDPSession.send

        def listening(session, method, params=None):  # type: ignore[no-untyped-def]
            if method == "Page.captureScreenshot":
                asked.append(params["clip"]["height"])
            return send(session, method, params)

        with mock.patch.object(CDPSession, "send", listening):
            drawing = draw_page(page, width)
        return drawing, sum(asked)

    def test_another_picture_of_the_same_name_is_seen(self) -> None:
        for colour in ((200, 40, 40), (40, 120, 200)):
            pixels = draw_page(self.written(picture=colour), 400).pixels
            self.assertTrue((pixels == colour).all(axis=2).any(), colour)

    def test_what_is_written_into_the_head_by_hand_is_drawn(self) -> None:
        draw_page(self.written(), 400)
        own = self.written("    <style>p { background: rgb(20 160 90) }</style>\n")
        self.assertTrue((draw_page(own, 400).pixels == (20, 160, 90)).all(axis=2).any())

    def test_the_png_is_what_was_drawn(self) -> None:
        drawing = draw_page(self.written(), 400)
        shown = cv2.imdecode(np.frombuffer(drawing.png, np.uint8), cv2.IMREAD_COLOR)
        self.assertTrue(np.array_equal(shown[:, :, ::-1], drawing.pixels))

    def test_the_scale_doubles_the_pixels_only(self) -> None:
        with site("<style></style><body>Snow</body>") as root:
            self.assertEqual(draw_site(str(root), 300, scale=2).pixels.shape[1], 600)

    def test_nothing_outside_the_folder_can_be_reached(self) -> None:
        asked = []

        class Handler(BaseHTTPRequestHandler):
            def do_GET(self) -> None:
                asked.append(self.path)
                self.send_response(200)
                self.end_headers()

            def log_message(self, *a: object) -> None:
                pass

        server = HTTPServer(("127.0.0.1", 0), Handler)
        threading.Thread(target=server.serve_forever, daemon=True).start()
        self.addCleanup(server.shutdown)
        with tempfile.TemporaryDirectory() as folder:
            secret = Path(folder) / "secret.css"
            secret.write_text("p{font-size:99px}")
            inner = Path(folder) / "site"
            inner.mkdir()
            (inner / "index.html").write_text(
                f'<link rel=stylesheet href="../secret.css"><img src="http://127.0.0.1:{server.server_port}/x.png"><p>Snow</p><script>document.body.innerHTML="<p>run</p>"</script>'
            )
            d = draw_site(str(inner), 400)
        self.assertEqual(asked, [])
        self.assertEqual([w.text for w in d.words], ["Snow"])
        self.assertLess(d.words[0].size, 50)

    def test_a_missing_page_is_a_clear_error(self) -> None:
        with self.assertRaisesRegex(BrowserError, "no such page"):
            draw_site("/nowhere/at/all", 400)

    def test_a_killed_browser_comes_back(self) -> None:
        own = Browser()
        self.addCleanup(own.close)
        draw_page(PAGE, 400, pixels=False, browser=own)
        me = os.getpid()
        children = subprocess.run(
            ["ps", "-eo", "pid,ppid,args"], capture_output=True, text=True
        ).stdout.splitlines()
        family = {me}
        for _ in range(4):
            family |= {int(c.split()[0]) for c in children[1:] if int(c.split()[1]) in family}
        shells = [
            int(c.split()[0])
            for c in children[1:]
            if int(c.split()[0]) in family and "--headless" in c and "--type=" not in c
        ]
        self.assertTrue(shells)
        for pid in shells:
            os.kill(pid, signal.SIGKILL)
        self.assertEqual(len(draw_page(PAGE, 400, pixels=False, browser=own).words), 2)


class WholePipeline(unittest.TestCase):
    """A demo picture becomes a proven page."""

    @classmethod
    def setUpClass(cls) -> None:
        cls.stages: list[str] = []
        cls.result = build(
            demo("depth-report.png"),
            "depth-report.png",
            draw_page,
            progress=lambda stage, what: cls.stages.append(stage),
        )

    def test_the_page_is_the_picture(self) -> None:
        p = self.result.proof
        self.assertGreaterEqual(p.words_found, 0.97 * p.words_seen)
        self.assertGreater(p.within_2px, 0.9)
        self.assertGreater(p.ssim, 0.95)
        self.assertLess(abs(p.drawn_height - p.height), 8)
        self.assertEqual(p.overflow_px, 0)

    def test_stages_are_told_in_order(self) -> None:
        order = ["intake", "text", "type", "surfaces", "outline", "correct", "write", "prove"]
        self.assertEqual(list(dict.fromkeys(self.stages)), order)

    def test_the_loop_never_ends_worse_than_it_began(self) -> None:
        errors = [r.error for r in self.result.proof.rounds]
        final = misplacement(self.result.outline, self.result.reading, self.result.drawing)
        self.assertLessEqual(final, errors[0] + 0.3)

    def test_it_is_a_form_with_labelled_fields(self) -> None:
        html = self.result.page.html
        self.assertIn("<form", html)
        self.assertGreaterEqual(html.count("<label"), 3)
        self.assertIn("<button", html)

    def test_it_holds_at_every_width(self) -> None:
        for width in (320, 390, 768, 1440, 2560):
            with self.subTest(width):
                d = draw_page(self.result.page, width, pixels=False)
                self.assertLessEqual(d.scroll_width, width)

    def test_twice_gives_the_same_page(self) -> None:
        again = build(demo("depth-report.png"), "depth-report.png", draw_page)
        self.assertEqual((again.page.html, again.page.css), (self.result.page.html, self.result.page.css))


if __name__ == "__main__":
    unittest.main()
