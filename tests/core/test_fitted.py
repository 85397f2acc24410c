"""Type drawn as browsers draw it: fitted to whole px at 1x, and what that makes possible."""

from __future__ import annotations

import unittest

import numpy as np

from neige.core.model import Cutout, Fill, Rect, Surface
from neige.core.reading import read
from neige.core.reading.text.raw import RawLine, RawWord
from neige.core.reading.type.catalogue import catalogue, draw
from neige.core.reading.type.kinds import oddity, written_sizes
from neige.core.reading.type.lost import find_lost
from neige.core.reading.type.pieces import cut_pieces
from neige.core.reading.type.settle import settle, surprise
from tests.support import drawn

TEXT = "Observers report snow every morning"


def row_of(family: str, weight: int = 400) -> int:
    return next(
        i.row
        for i in catalogue().instances
        if i.face.family == family and i.weight == weight and not i.face.italic
    )


def unexplained(cover: np.ndarray, family: str, size: float, fitted: bool) -> float:
    """Share of the ink's energy that the best drawing leaves, over the baselines near the line's middle."""
    out = 1.0
    for base in range(20, 34):
        model = draw(row_of(family), TEXT, size, 0.0, 10.0, base, cover.shape, fitted)
        both = float((model * cover).sum()) ** 2
        out = min(out, 1 - both / float((model**2).sum() * (cover**2).sum()))
    return out


class Manual(unittest.TestCase):
    """A page on which the longest lines are prose with code in it, which no single type draws, and short ones say how it was drawn."""

    PROSE = "With <code>read(stake)</code> the depth of a <code>stake</code> is read, and <code>send(depth, station)</code> sends it to the <b>warning service</b> of the range."
    BODY = f"""<style>body{{margin:0;background:#fff;color:#223;font:16px/24px 'Liberation Sans'}}p{{margin:20px}}
code{{font:13.6px 'Liberation Mono';color:#a22}}</style>
{f"<p>{PROSE}</p>" * 12}<p>Every station is read at eight.</p><p>What it says is sent on.</p>"""

    def test_lines_in_several_types_do_not_say_how_a_page_was_drawn(self) -> None:
        for fitted in (True, False):
            found = read(drawn(self.BODY, 1100, fitted=fitted)[0])
            self.assertEqual(found.fitted, fitted)
            sizes = {
                (w.text, found.styles[w.style].size, found.styles[w.style].tracking)
                for n in found.lines
                for w in n.words
            }
            self.assertEqual(
                {s for s in sizes if s[0] in ("stake", "depth")}, {("stake", 13.6, 0.0), ("depth", 16.0, 0.0)}
            )


class Fitted(unittest.TestCase):
    def test_a_browsers_own_line_is_drawn_at_every_size(self) -> None:
        sizes = (12, 13, 14, 15, 16, 17, 20)
        lines = "".join(
            f"<div style='position:absolute;left:10px;top:{40 * n}px;font:{s}px/40px \"{family}\";white-space:nowrap'>{TEXT}</div>"
            for n, (family, s) in enumerate((f, s) for f in ("DejaVu Sans", "Liberation Sans") for s in sizes)
        )
        picture, _ = drawn(
            f"<style>body{{margin:0;background:#fff;color:#000}}</style><body>{lines}", 600, fitted=True
        )
        ink = 1 - picture.pixels[..., 1].astype(np.float32) / 255
        loose = []
        for n, (family, s) in enumerate((f, s) for f in ("DejaVu Sans", "Liberation Sans") for s in sizes):
            cover = ink[40 * n : 40 * n + 40]
            with self.subTest(family=family, size=s):
                self.assertLess(unexplained(cover, family, float(s), True), 0.012)
            loose.append(unexplained(cover, family, float(s), False))
        self.assertGreater(max(loose), 0.1)  # at some size a drawing that is not fitted is far off

    def test_sizes_and_weights_of_short_words_are_those_that_were_written(self) -> None:
        words = (("Overview", 12, 700), ("Stations", 13, 400), ("Late", 15, 400), ("Depth", 11, 400))
        html = "<style>body{margin:0;background:#fff;color:#222}</style>" + "".join(
            f"<div style='position:absolute;left:{40 + 160 * n}px;top:30px;font:{w} {s}px \"Liberation Sans\"'>{t}</div>"
            for n, (t, s, w) in enumerate(words)
        )
        html += "<p style='position:absolute;left:40px;top:80px;font:16px \"Liberation Sans\"'>Every station reports its depth.</p>"
        picture, _ = drawn(html, 800, fitted=True)
        found = read(picture)
        seen = {
            w.text: (found.styles[w.style].size, found.styles[w.style].weight)
            for n in found.lines
            for w in n.words
            if n.box.y < 60
        }
        for text, size, weight in words:
            self.assertAlmostEqual(seen[text][0], size, delta=0.02 * size, msg=text)
            self.assertEqual(seen[text][1], weight, text)
        self.assertTrue(all(s.fitted for s in found.styles))

    def test_letters_that_are_not_fitted_are_known_as_such(self) -> None:
        html = "<style>body{margin:20px;background:#fff;color:#222;font:15px 'DejaVu Sans'}</style>" + (
            "<p>Volunteers read the stakes at dawn and write down how deep the snow lies.</p>" * 3
        )
        for fitted in (True, False):
            with self.subTest(fitted):
                picture, _ = drawn(html, 800, fitted=fitted)
                found = read(picture)
                self.assertEqual({s.fitted for s in found.styles}, {fitted})
                self.assertLess(max(n.residual for n in found.lines), 0.02)

    def test_both_ways_of_drawing_place_everything_alike(self) -> None:
        html = f"<style>body{{margin:20px;font:15px 'Liberation Sans'}}</style><p>{TEXT}</p><p style='width:180px'>{TEXT}</p>"
        a, b = (drawn(html, 400, fitted=fitted)[1] for fitted in (True, False))
        self.assertEqual([w.rect for w in a.words], [w.rect for w in b.words])
        self.assertFalse(np.array_equal(a.pixels, b.pixels))

    def test_sizes_that_people_write_are_tried(self) -> None:
        self.assertIn(12.8, written_sizes(12.6, 60))
        self.assertIn(12.0, written_sizes(12.6, 60))
        self.assertEqual([s for s in written_sizes(16.1, 600) if s == 16.0], [16.0])
        self.assertLess(len(written_sizes(16.1, 600)), len(written_sizes(16.1, 60)))
        self.assertLess(oddity(16.0), oddity(12.8))
        self.assertLess(oddity(12.8), oddity(12.6))

    def test_a_name_with_capital_i_and_l_is_no_oddity(self) -> None:
        self.assertLess(surprise("Ilse"), surprise("IIse"))
        self.assertLess(surprise("Ilse"), surprise("llse"))
        self.assertLess(surprise("petra.l"), surprise("petra.I"))
        self.assertLess(surprise('"format.html"'), surprise('"format.htm!"'))


class Stops(unittest.TestCase):
    def test_three_dots_that_were_read_as_fewer_are_three(self) -> None:
        for written, read_as, wanted in (
            ("hid…", "hid..", "hid…"),
            ("hid...", "hid.", "hid..."),
            ("hid.", "hid.", "hid."),
            ("hid…", "hid…", "hid…"),
        ):
            with self.subTest(written, read_as=read_as):
                html = f"<style>body{{margin:20px;background:#fff;color:#222;font:16px 'Liberation Sans'}}</style><p>{written}</p>"
                picture, _ = drawn("<meta charset='utf-8'>" + html, 300, fitted=True)
                away = 255 - picture.pixels.max(axis=2)
                ys, xs = np.nonzero(away > 60)
                box = (float(xs.min()), float(ys.min()), float(xs.max()) + 1, float(ys.max()) + 1)
                word = RawWord(read_as, box, (34.0, 34.0, 34.0), 1.0)
                (piece,) = cut_pieces(0, RawLine((word,), box, (255.0,) * 3, True, 1.0), picture.pixels)
                piece.fitted = True
                settle(
                    piece, row_of("Liberation Sans"), 16.0, 0.0, 0.021, 1
                )  # a face that is only nearly right
                self.assertEqual([w.text for w in piece.words], [wanted])


class Lost(unittest.TestCase):
    def page(self) -> str:
        pages = "".join(
            f"<a style='display:inline-block;width:34px;height:34px;border:1px solid #ccd4dc;text-align:center;"
            f'font:14px/34px "Liberation Sans";margin-right:8px{";background:#1769aa;color:#fff" if n == 1 else ""}\'>{n}</a>'
            for n in range(1, 5)
        )
        return (
            "<style>body{margin:30px;background:#fff;color:#223;font:14px 'Liberation Sans'}</style>"
            f"<p>Forty-eight stations of the network report their depth here.</p><p>{pages}</p>"
        )

    def test_lone_numbers_in_boxes_are_text(self) -> None:
        picture, _ = drawn(self.page(), 700, fitted=True)
        found = read(picture)
        numbers = sorted((n.box.x, n.text) for n in found.lines if n.text.isdigit())
        self.assertEqual([t for _, t in numbers], ["1", "2", "3", "4"])
        for n in found.lines:
            self.assertAlmostEqual(found.styles[n.style].size, 14, delta=0.5, msg=n.text)
        self.assertFalse(found.cutouts)

    def test_a_mark_in_a_box_that_no_type_draws_stays_an_icon(self) -> None:
        html = self.page() + (
            "<div style='width:36px;height:36px;background:#dde6ee'><svg width=36 height=36>"
            "<path d='M9 24l5-12 4 7 4-5 5 10z' fill='none' stroke='#1769aa' stroke-width='2'/></svg></div>"
        )
        picture, _ = drawn(html, 700, fitted=True)
        found = read(picture)
        self.assertEqual([c.kind for c in found.cutouts], ["icon"])

    def test_what_an_icon_counts_is_text(self) -> None:
        icon = (
            "<svg width=18 height=18 style='vertical-align:-4px'><path d='M9 16l-7-7a4 4 0 0 1 7-5a4 4 0 0 1 7 5z' fill='none' "
            "stroke='#667' stroke-width='1.5'/></svg>"
        )
        for apart in (5, 10):
            with self.subTest(apart):
                counts = "".join(
                    f"<p style='margin:0 0 140px {90 * n}px'>{icon}<span style='margin-left:{apart}px'>{count}</span></p>"
                    for n, count in enumerate((6, 4, 7))
                )
                intro = "<p>Forty-eight stations of the network report their depth here.</p>"
                found = read(
                    drawn(self.page().split("</style>")[0] + "</style>" + intro + counts, 700, fitted=True)[0]
                )
                self.assertEqual([n.text for n in found.lines if n.text.isdigit()], ["6", "4", "7"])
                self.assertEqual([c.kind for c in found.cutouts if c.rect.w <= 20], ["icon"] * 3)

    def test_a_sign_in_a_box_that_was_taken_for_an_icon_is_text(self) -> None:
        box = "<span style='position:absolute;left:300px;top:120px;width:36px;height:36px;background:#e4eaf0;font:14px/36px \"Liberation Sans\";text-align:center'>{}</span>"
        for sign in "@%":
            with self.subTest(sign):
                picture, drawing = drawn(self.page() + box.format(sign), 700, fitted=True)
                found = read(picture)
                word = next(w.rect for w in drawing.words if w.text == sign)
                icon = Cutout(Rect(word.x, word.y, word.w, 16), "icon", ground="#e4eaf0")
                others = [n for n in found.lines if n.text != sign]
                surfaces = [Surface(Rect(300, 120, 36, 36), Fill("#e4eaf0"))]
                left, lines, styles = find_lost([icon], surfaces, picture.pixels, 1, others, found.styles)
                self.assertEqual((left, [n.text for n in lines[len(others) :]]), ([], [sign]))
                self.assertEqual(len(styles), len(found.styles))

    def test_without_a_box_and_without_numbers_beside_it_nothing_is_read(self) -> None:
        picture, _ = drawn(self.page(), 700, fitted=True)
        found = read(picture)
        icon = Cutout(Rect(300, 4, 8, 10), "icon")
        left, lines, styles = find_lost(
            [icon],
            [Surface(Rect(0, 0, 700, 200), found.background)],
            picture.pixels,
            1,
            found.lines[:1],
            found.styles,
        )
        self.assertEqual((left, len(lines), len(styles)), ([icon], 1, len(found.styles)))


if __name__ == "__main__":
    unittest.main()
