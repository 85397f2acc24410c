"""Forms as people write them: sets of choices, hints, ticks, labels over their fields, buttons of all sizes, what is no field."""

from __future__ import annotations

import unittest

import numpy as np

from neige.core.model import Fill, Node, Rect, Surface
from neige.core.model.outline import Run
from neige.core.outline.forms import press_words
from neige.core.writer import write
from tests.core.test_menus import words
from tests.core.test_structure import PROSE, STYLE, drawn, page, tagged

FIELD = "display:block;width:{}px;height:38px;box-sizing:border-box;border:2px solid #20262c;font:inherit"
BUTTON = "display:inline-block;background:#23607a;color:#fff;border-radius:5px;text-align:center"
RING = "<i style='width:{0}px;height:{0}px;border:2px solid #20262c;border-radius:50%;display:grid;place-items:center;box-sizing:border-box'>{1}</i>"
DOT = "<b style='width:18px;height:18px;border-radius:50%;background:#20262c'></b>"


def fields(body: str) -> list[Node]:
    return [n for n in page(body)[1].root.walk() if n.kind == "field"]


class Pressed(unittest.TestCase):
    def test_what_says_what_is_done_is_a_button_and_what_leads_on_a_link(self) -> None:
        def tag(said: str) -> str:
            r, fill = Rect(80, 100, 160, 40), Fill("#23607a")
            word = Node("text", Rect(100, 110, 120, 20), tag="span", runs=[Run(said, 0)])
            box = Node(
                "block",
                r,
                tag="a",
                children=[word],
                surface=Surface(r, fill, 5.0),
                attributes={"role": "button"},
            )
            press_words(Node("block", Rect(0, 0, 800, 600), children=[box]))
            return box.tag

        for said in ("Delete", "Print bulletin", "Follow", "Bookmark it", "Save", "Export as CSV"):
            self.assertEqual(tag(said), "button", said)
        for said in (
            "Follow your favourite station",
            "Stations",
            "Printed maps",
            "Read more",
            "Deleted items",
        ):
            self.assertEqual(tag(said), "a", said)


class Choices(unittest.TestCase):
    def choices(self) -> str:
        row = "<div style='display:flex;gap:14px;align-items:center;margin-top:12px'>{}<span>{}</span></div>"
        rings = (
            row.format(RING.format(40, dot), name)
            for dot, name in ((DOT, "Brenn Hut"), ("", "Grey Saddle"), ("", "Elsewhere"))
        )
        return f"<main><h1>Stations</h1>{PROSE}<h2 style='font-size:23px;line-height:28px;margin:24px 0 12px'>Where do you measure?</h2>{''.join(rings)}<span style='{BUTTON};padding:10px 20px;margin-top:20px'>Save and continue</span></main>"

    def test_large_rings_with_a_legend_are_one_set(self) -> None:
        _, outline, html = page(self.choices())
        radios = [n for n in outline.root.walk() if n.attributes.get("type") == "radio"]
        self.assertEqual([bool(n.attributes.get("checked")) for n in radios], [True, False, False])
        sets = tagged(outline, "fieldset")
        self.assertEqual(len(sets), 1)
        self.assertEqual([words(n) for n in tagged(outline, "legend")], ["Where do you measure?"])
        self.assertEqual(html.count('name="where-do-measure"'), 3, "one of them can be pressed")

    def test_a_ring_keeps_the_width_of_its_line(self) -> None:
        found, _, _ = page(self.choices())
        rings = [s for s in found.surfaces if s.border[0] and s.radius >= 19]
        self.assertEqual([(s.rect.w, s.border[0]) for s in rings], [(40.0, 2.0)] * 2)

    def test_a_filled_square_with_a_tick_needs_no_other_like_it(self) -> None:
        tick = "<svg width='16' height='16' viewBox='0 0 16 16' style='background:#3459e6;border-radius:4px'><path d='M4 8.5l2.5 2.5 5-5.5' fill='none' stroke='#fff' stroke-width='2'/></svg>"
        body = f"<main><h1>Stations</h1><div style='display:flex;gap:8px;align-items:center'>{tick}<span>I have read the note</span></div>{PROSE}</main>"
        found = fields(body)
        self.assertEqual([n.attributes.get("checked") for n in found], ["#3459e6"])

    def test_boxes_to_tick_may_each_be_in_a_row_of_their_own(self) -> None:
        box = "<i style='width:22px;height:22px;box-sizing:border-box;border:1px solid #99a3ad;border-radius:4px;flex:none'></i>"
        row = "<div style='display:flex;gap:16px;align-items:center;padding:14px 16px;border-bottom:1px solid #c8ccd2'>{}<span>{}</span></div>"
        rows = "".join(row.format(box, name) for name in ("Grey Saddle", "Brenn Hut", "Upper Stake"))
        body = f"<main><h1>Stations</h1><div style='width:420px;border:1px solid #c8ccd2;border-radius:6px'>{rows}</div>{PROSE}</main>"
        self.assertEqual([n.attributes.get("type") for n in fields(body)], ["checkbox"] * 3)

    def test_an_outlined_switch_is_off(self) -> None:
        switch = "<i style='width:32px;height:16px;box-sizing:border-box;border:1px solid #c8ccd2;border-radius:8px;padding:2px'><b style='display:block;width:10px;height:10px;border-radius:50%;background:#8f959c'></b></i>"
        body = f"<main><h1>Stations</h1><div style='display:flex;gap:8px;align-items:center'>{switch}<span>Send me the bulletin</span></div>{PROSE}</main>"
        found, outline, _ = page(body)
        switches = [n for n in outline.root.walk() if n.attributes.get("role") == "switch"]
        self.assertEqual([n.attributes.get("checked") for n in switches], [None])
        track = max(
            (s for s in found.surfaces if 28 <= s.rect.w <= 36 and s.radius > 6), key=lambda s: s.rect.w
        )
        self.assertEqual((track.rect.w, track.rect.h, track.border), (32.0, 16.0, (1.0,) * 4))


class Labels(unittest.TestCase):
    def test_a_hint_between_label_and_field_is_no_label(self) -> None:
        body = f"<main><h1>Stations</h1>{PROSE}<p style='margin-top:20px'>Email address</p><p style='color:#7a8694'>We only use it to send you a receipt</p><div style='{FIELD.format(280)};margin-top:6px'></div>{PROSE}</main>"
        self.assertEqual([n.attributes.get("name") for n in fields(body)], ["Email address"])

    def test_a_bold_heading_right_over_an_empty_field_is_its_label(self) -> None:
        body = f"<main><h1>Stations</h1>{PROSE}<h2 style='font-size:24px;line-height:28px;margin:24px 0 8px'>Full name</h2><div style='{FIELD.format(400)}'></div>{PROSE}</main>"
        _, outline, _ = page(body)
        self.assertEqual([words(n) for n in tagged(outline, "label")], ["Full name"])
        self.assertFalse(tagged(outline, "h2"))

    def test_labels_side_by_side_stay_with_their_fields(self) -> None:
        cell = (
            "<div style='flex:1'><span>{}</span><div style='"
            + FIELD.format(260)
            + ";margin-top:6px'></div></div>"
        )
        card = f"<div style='border:1px solid #b7bec6;border-radius:6px;padding:20px;width:600px'><h2 style='font-size:22px;line-height:26px;margin-bottom:12px'>Write to us</h2><div style='display:flex;gap:24px'>{cell.format('First name')}{cell.format('Last name')}</div></div>"
        _, outline, _ = page(f"<main><h1>Stations</h1>{card}{PROSE}</main>")
        both = [n for n in outline.root.walk() if [c.tag for c in n.children] == ["label", "input"]]
        self.assertEqual([words(n) for n in both], ["First name", "Last name"])
        self.assertIn("Write to us", [words(n) for n in tagged(outline, "h2")])


class Buttons(unittest.TestCase):
    def button(self, style: str, text: str) -> list[Node]:
        body = f"<main><h1>Stations</h1>{PROSE}<div style='{style}'>{text}</div>{PROSE}</main>"
        return [n for n in page(body)[1].root.walk() if n.attributes.get("role") == "button"]

    def test_as_high_as_a_card_if_it_says_what_to_do(self) -> None:
        high = f"{BUTTON};padding:32px 40px"
        self.assertEqual([words(n) for n in self.button(high, "Book a bed")], ["Book a bed"])
        self.assertFalse(self.button(high, "Deep snow"))

    def test_as_wide_as_a_form_if_it_is_vivid(self) -> None:
        wide = "width:560px;padding:9px 0;border-radius:6px;text-align:center;color:#fff;background:"
        self.assertEqual(len(self.button(wide + "#3459e6", "Call me")), 1)
        self.assertFalse(self.button(wide + "#5b6168", "Call me"))

    def test_a_pale_bar_with_a_price_is_no_field_and_an_address_in_a_frame_is_one(self) -> None:
        bar = "width:400px;padding:9px 16px;background:#fafafa;color:#7a7a7a"
        frame = "width:200px;padding:9px 16px;border:1px solid #b7bec6;border-radius:4px"
        body = f"<main><h1>Stations</h1>{PROSE}<div style='{bar}'>From 40 a night</div><br><div style='{frame}'>ilse@firn.test</div>{PROSE}</main>"
        self.assertEqual([n.attributes.get("placeholder") for n in fields(body)], ["ilse@firn.test"])


class Boxes(unittest.TestCase):
    """Pale outlined boxes that are no fields, though they are as high."""

    def test_a_picture_in_the_middle_is_no_field(self) -> None:
        seal = "<svg width='44' height='20'><ellipse cx='15' cy='10' rx='14' ry='9' fill='#c33'/><ellipse cx='29' cy='10' rx='14' ry='9' fill='#e90'/></svg>"
        box = f"<div style='width:90px;height:42px;box-sizing:border-box;border:1px solid #c4ccd4;border-radius:4px;display:grid;place-items:center'>{seal}</div>"
        body = f"<main><h1>Stations</h1>{PROSE}<div style='display:flex;gap:12px;margin:20px 0'>{box}{box}</div>{PROSE}</main>"
        self.assertEqual(fields(body), [])

    def test_a_box_that_says_what_it_opens_is_a_button(self) -> None:
        arrow = (
            "<svg width='9' height='6' style='margin-left:5px'><path d='M0 0h9L4.5 6z' fill='#445'/></svg>"
        )
        for says, count in (("Actions", 0), ("Brenn Hut", 1)):
            box = f"<span style='display:inline-flex;align-items:center;height:36px;padding:0 14px;border:1px solid #c4ccd4;border-radius:4px'>{says}{arrow}</span>"
            body = f"<main><h1>Stations</h1>{PROSE}<p style='margin:20px 0'>{box}</p>{PROSE}</main>"
            self.assertEqual(len(fields(body)), count, says)
            self.assertEqual(len(tagged(page(body)[1], "button")), 1 - count, says)

    def test_dots_of_a_chart_lead_nowhere(self) -> None:
        dots = "".join(
            "<i style='width:5px;height:5px;border-radius:50%;background:#2a6df4'></i>" for _ in range(9)
        )
        body = f"<main><h1>Stations</h1>{PROSE}<div style='display:flex;gap:8px;margin:20px 0'>{dots}</div>{PROSE}</main>"
        self.assertEqual(
            [n for n in page(body)[1].root.walk() if n.attributes.get("linked") or n.tag == "a"], []
        )


class Login(unittest.TestCase):
    """Label and link over one field, an eye at its end; a button floats at the window's corner."""

    EYE = "<svg width='18' height='12' style='margin-left:auto'><ellipse cx='9' cy='6' rx='8' ry='5' fill='none' stroke='#678' stroke-width='2'/><circle cx='9' cy='6' r='2' fill='#678'/></svg>"
    BODY = f"""<main style='width:420px;margin:0 auto;position:relative;min-height:560px'><h1>Sign in</h1><p>Email address</p>
<div style='{FIELD.format(340)};display:flex;align-items:center;padding:0 12px;color:#89a'>you@vell.example</div>
<div style='width:340px;display:flex;justify-content:space-between;margin-top:18px'><span>Password</span><span style='color:#06c'>Forgotten password</span></div>
<div style='{FIELD.format(340)};display:flex;align-items:center;padding:0 12px;color:#89a'>Your password{EYE}</div>
<span style='{BUTTON};width:340px;margin-top:20px;padding:9px 0'>Sign in</span></main>
<div style='position:absolute;left:16px;top:848px;width:36px;height:36px;box-sizing:border-box;padding:9px;background:#06c;border-radius:6px'><svg width='18' height='18'><path d='M2 9h14M9 2v14' stroke='#fff' stroke-width='2'/></svg></div>"""

    def test_what_is_typed_is_not_chosen(self) -> None:
        found = fields(self.BODY)
        self.assertEqual(
            [(n.tag, n.attributes["type"]) for n in found], [("input", "email"), ("input", "password")]
        )

    def test_a_label_may_share_its_line_with_a_link(self) -> None:
        _, outline, html = page(self.BODY)
        self.assertEqual([words(n) for n in tagged(outline, "label")], ["Email address", "Password"])
        self.assertIn(">Forgotten password</a>", html)

    def test_a_button_whose_words_take_two_lines_is_as_wide_as_it_is(self) -> None:
        button = "<a href='#' style='display:block;width:84px;padding:6px 8px;margin:16px auto;text-align:center;background:#1c7a4c;color:#fff;border-radius:4px'>Sign up today</a>"
        body = f"<main><h1>Stations</h1>{PROSE}{button}{PROSE}</main>"
        found, outline, _ = page(body)
        (pressed,) = [n for n in tagged(outline, "a") if n.surface is not None]
        self.assertEqual([len(t.lines) for t in pressed.children], [2])
        css = write(outline, found, drawn(STYLE + body, 900)[0]).css
        self.assertIn("inline-size: min(100%, 5.25rem)", css)

    def test_a_button_at_the_windows_corner_floats(self) -> None:
        found = [n for n in page(self.BODY)[1].root.walk() if n.attributes.get("floats")]
        self.assertEqual([(n.tag, n.rect.x) for n in found], [("button", 16.0)])


class Rings(unittest.TestCase):
    def test_a_ring_with_something_in_it_is_no_empty_choice(self) -> None:
        from neige.core.model import Cutout, Rect
        from neige.core.reading.surfaces.choices import settle_choices

        yy, xx = np.mgrid[:60, :60] + 0.5
        far = np.hypot(xx - 30, yy - 30)
        pixels = np.full((60, 60, 3), 255, np.uint8)
        pixels[(far <= 20) & (far > 18)] = 20
        mark = Cutout(Rect(10, 10, 40, 40), "image", ground="#ffffff")
        cutouts, surfaces = settle_choices([mark], pixels, 1)
        self.assertEqual((len(cutouts), [s.border[0] for s in surfaces]), (0, [2.0]))
        pixels[far <= 6] = 20
        cutouts, surfaces = settle_choices([mark], pixels, 1)
        self.assertEqual(([c.radius for c in cutouts], surfaces), ([20.0], []))
