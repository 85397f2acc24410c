"""Cards that a floating button crosses, framed tables with a thick line under their heads, bands shaded from within, and what is
painted in front of what follows it."""

from __future__ import annotations

import re
import unittest

import numpy as np

from neige.browser import draw_page
from neige.core import pipeline
from neige.core.model import Fill, Node, Rect, Shadow, Surface
from neige.core.outline import arrange
from neige.core.outline.front import bring_forward
from neige.core.outline.tidy import tidy
from neige.core.reading import read
from neige.core.reading.surfaces import read_surfaces
from neige.core.reading.surfaces.rectangles import fit_rectangle
from neige.core.reading.surfaces.shade import strips_of_ground
from neige.core.writer import write
from tests.core.test_menus import words
from tests.core.test_structure import PROSE, tagged
from tests.core.test_surfaces import canvas
from tests.core.test_tables import ROWS
from tests.support import drawn, png

CELLS = "".join(f"<tr>{''.join(f'<td>{c}</td>' for c in r)}</tr>" for r in ROWS * 2)
TABLE = f"""<style>
body {{ margin: 0; background: #eef1f6; font: 15px Liberation Sans }}
.card {{ position: relative; margin: 30px 40px; padding: 20px; background: #fff; border: 1px solid #d5dbe6; border-radius: 5px }}
table {{ border-collapse: collapse; width: 100% }}
th, td {{ border: 1px solid #d5dbe6; padding: 12px; text-align: left }} thead th {{ border-bottom: 3px solid #d5dbe6 }}
.up {{ position: absolute; right: -12px; bottom: 50px; width: 44px; height: 44px; border-radius: 6px; background: #5a5c69 }}
</style>
<div class="card"><table><thead><tr><th>Station</th><th>Height</th><th>Depth</th></tr></thead><tbody>{CELLS}</tbody></table><i class="up"></i></div>"""


class Crossed(unittest.TestCase):
    @classmethod
    def setUpClass(cls) -> None:
        cls.picture, _ = drawn(TABLE, 900)
        cls.found = read(cls.picture)

    def test_the_card_is_found_whole(self) -> None:
        card = max(self.found.surfaces, key=lambda s: s.rect.area)
        self.assertEqual((card.fill.colour, card.rect.x, card.rect.w), ("#ffffff", 40, 820))
        self.assertEqual(card.border, (1, 1, 1, 1))

    def test_a_thick_line_under_the_head_parts_no_table(self) -> None:
        (table,) = tagged(arrange(self.found), "table")
        self.assertEqual([len(tr.children) for tr in table.children], [3] * 7)
        self.assertEqual({td.tag for td in table.children[0].children}, {"th"})
        tops = {td.surface.border[0] for td in table.children[1].children if td.surface}
        self.assertEqual(tops, {1.0})

    def test_its_cells_are_not_painted_in_the_cards_colour(self) -> None:
        outline = arrange(self.found)
        (table,) = tagged(outline, "table")
        fills = {td.surface.fill.colour for tr in table.children for td in tr.children if td.surface}
        self.assertEqual(fills, {""})
        css = write(outline, self.found, self.picture).css
        cells = re.findall(r"__(?:head|cell)[^{]*\{([^}]*)\}", css)
        self.assertTrue(cells)
        self.assertFalse([c for c in cells if "background" in c])

    def test_an_open_ring_is_no_card(self) -> None:
        """Three sides and a gap are something else, but a frame that one thing interrupts is a frame."""
        ring = np.zeros((300, 400), bool)
        ring[:40] = ring[-40:] = True
        ring[:, :40] = ring[:, -40:] = True
        crossed, open_ = ring.copy(), ring.copy()
        crossed[200:230, -40:] = False
        open_[60:240, -40:] = False
        self.assertEqual(fit_rectangle(ring), 0.0)
        self.assertEqual(fit_rectangle(crossed), 0.0)
        self.assertIsNone(fit_rectangle(open_))


class Cells(unittest.TestCase):
    def test_one_distance_in_all_cells(self) -> None:
        outline = arrange(read(drawn(TABLE, 900)[0]))
        found = read(drawn(TABLE, 900)[0])
        (table,) = tagged(outline, "table")
        wide = sum(table.columns)
        for k, tr in enumerate(table.children):
            for i, td in enumerate(tr.children):
                td.padding = (0.0, 0.0, 0.0, 12.0 + 0.4 * (i - 1) + 0.01 * k)
        neat = next(n for n in tidy(outline, found).root.walk() if n.kind == "table")
        self.assertEqual(len({td.padding[3] for tr in neat.children for td in tr.children}), 1)
        self.assertAlmostEqual(sum(neat.columns), wide, delta=1.0)


class Heads(unittest.TestCase):
    def test_a_cards_head_in_the_pages_colour_is_one(self) -> None:
        body = f"<style>body{{margin:0;padding:30px;background:#f6f8fa;font:15px Liberation Sans}}.c{{background:#fff;border:1px solid #d0d7de;border-radius:8px;overflow:hidden}}.h{{background:#f6f8fa;border-bottom:1px solid #d0d7de;padding:10px 16px}}.b{{padding:16px;height:160px}}</style><div class=c><div class=h>Stakes read today</div><div class=b>{PROSE}</div></div>"
        found = read(drawn(body, 800)[0])
        (head,) = [s for s in found.surfaces if s.fill.colour == "#f6f8fa"]
        self.assertEqual((head.rect.x, head.rect.y, head.rect.w), (31, 31, 738))
        self.assertAlmostEqual(head.rect.h, 38, delta=2)
        assert head.corners is not None
        self.assertEqual(head.corners[2:], (0, 0))

    def test_a_card_that_shows_the_page_in_its_middle_has_none(self) -> None:
        frame = Surface(Rect(40, 40, 500, 300), Fill("#ffffff"), 8.0, (1.0, 1.0, 1.0, 1.0), "#cccccc")
        hole = Surface(Rect(120, 120, 300, 90), Fill("#f2f6f9"))
        pixels = canvas([frame, hole]).pixels
        self.assertEqual(strips_of_ground([frame], pixels, Fill("#f2f6f9"), 1), [frame])
        head = Surface(Rect(41, 41, 498, 50), Fill("#f2f6f9"))
        found = strips_of_ground([frame], canvas([frame, head]).pixels, Fill("#f2f6f9"), 1)
        self.assertEqual([s.rect for s in found], [frame.rect, head.rect])


class Bands(unittest.TestCase):
    def test_a_band_shaded_from_within_is_one_surface(self) -> None:
        band = "<div style='height:48px;background:rgb(0 0 0/.1);border:solid rgb(0 0 0/.15);border-width:1px 0;box-shadow:inset 0 8px 24px rgb(0 0 0/.1),inset 0 2px 8px rgb(0 0 0/.15)'></div>"
        part = f"<div style='padding:30px 60px'>{PROSE}</div>"
        picture, _ = drawn(f"<style>body{{margin:0}}</style>{part}{band}{part}{band}{part}", 1200)
        found = read(picture)
        bands = [s for s in found.surfaces if s.rect.w > 1100]
        self.assertEqual([(s.rect.h, s.border[0], s.border[2], s.radius) for s in bands], [(50, 1, 1, 0)] * 2)
        for s in bands:
            assert s.inner is not None
            self.assertAlmostEqual(int(s.fill.colour[1:3], 16), 230, delta=4)
            self.assertAlmostEqual(s.inner.blur, 22, delta=6)
        self.assertFalse([s for s in found.surfaces if 600 < s.rect.w < 1190])

    def test_a_band_with_bars_of_other_colours_is_none(self) -> None:
        bars = [
            Surface(Rect(0, 100 + 8 * k, 600, 8), Fill(c))
            for k, c in enumerate(("#888888", "#aaaaaa", "#cccccc", "#aaaaaa", "#777777"))
        ]
        found = read_surfaces(canvas(bars, ground="#ffffff"), [])
        self.assertFalse([s for s in found.surfaces if s.inner])

    def test_painted_and_read_it_is_the_same_again(self) -> None:
        shade = Shadow(0, 4, 20, -4, "#000000", 0.35)
        given = Surface(
            Rect(0, 120, 1200, 50), Fill("#e4e4e4"), 0.0, (1.0, 0.0, 1.0, 0.0), "#c0c0c0", inner=shade
        )
        found = read_surfaces(canvas([given], ground="#ffffff", w=1200, h=400), [])
        (got,) = [s for s in found.surfaces if s.inner]
        again = read_surfaces(canvas([got], ground="#ffffff", w=1200, h=400), [])
        (same,) = [s for s in again.surfaces if s.inner]
        self.assertEqual((same.rect, same.border), (got.rect, got.border))
        self.assertLessEqual(abs(int(same.fill.colour[1:3], 16) - int(got.fill.colour[1:3], 16)), 1)


class Front(unittest.TestCase):
    def test_a_ribbon_over_the_edge_of_the_card_that_follows_is_seen(self) -> None:
        ribbon = "<div style='position:relative;z-index:1;width:140px;margin:40px 0 -14px 120px;background:#23607a;color:#fff;padding:6px 10px;text-align:center'>Most read</div>"
        card = f"<div style='width:420px;background:#f3e6c8;border:1px solid #b59a55;padding:34px 24px'>{PROSE}</div>"
        picture, _ = drawn(
            f"<style>body{{margin:30px;font:15px Liberation Sans}}</style>{ribbon}{card}{PROSE}", 900
        )
        built = pipeline.build(png(picture.pixels), "ribbon.png", draw_page)
        said = next(n for n in built.outline.root.walk() if n.surface and words(n) == "Most read")
        middle = said.rect
        inside = built.drawing.pixels[round(middle.bottom) - 3, round(middle.x) + 8]
        self.assertLess(int(np.abs(inside.astype(int) - (0x23, 0x60, 0x7A)).max()), 6)

    def test_only_what_hides_something_comes_forward(self) -> None:
        back, fore = (
            Surface(Rect(0, 20, 100, 60), Fill("#cccccc")),
            Surface(Rect(10, 0, 40, 30), Fill("#334455")),
        )
        first, second = Node("block", fore.rect, surface=fore), Node("block", back.rect, surface=back)
        root = Node("block", Rect(0, 0, 200, 200), children=[first, second])
        bring_forward(root, {id(back): 0, id(fore): 1})
        self.assertEqual((first.attributes.get("front"), second.attributes.get("behind")), ("1", "1"))
        first.attributes.clear()
        bring_forward(root, {id(back): 1, id(fore): 0})
        self.assertNotIn("front", first.attributes)
        root.children = [
            Node("block", back.rect, surface=back, children=[Node("block", fore.rect, surface=fore)])
        ]
        bring_forward(root, {id(back): 0, id(fore): 1})
        self.assertFalse([n for n in root.walk() if n.attributes.get("front")])


if __name__ == "__main__":
    unittest.main()
