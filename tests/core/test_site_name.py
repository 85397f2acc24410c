"""The site's name over a page without a menu is its head, and leads home."""

from __future__ import annotations

import unittest

from tests.core.test_menus import words
from tests.core.test_structure import page, tagged

LETTER = """<div style='width:500px;margin:0 auto'><p style='margin:0;padding:20px 0;text-align:center;font-size:26px'>{name}</p>
<div style='background:#e4eef4;padding:40px'><p style='font-size:30px;margin:0'>Dear observer,</p><p>The stakes of your station were read
every morning of the week, and the depth is in the bulletin.</p><p>We thank you for it.</p></div>
<p style='margin:0;padding:40px 0 20px;text-align:center;font-size:12px;color:#667'>© 2026 {owner}. All rights reserved.</p></div>"""


class SiteName(unittest.TestCase):
    def test_a_name_that_the_copyright_says_again_is_the_head_and_a_link(self) -> None:
        _, outline, html = page(LETTER.format(name="Firnwatch Letters", owner="Firnwatch Letters"))
        head = tagged(outline, "header")
        self.assertEqual([words(n) for n in head], ["Firnwatch Letters"])
        self.assertRegex(html, r"<header[^>]*>\s*<a [^>]*>Firnwatch Letters</a>")
        self.assertEqual([words(n) for n in tagged(outline, "h1")], ["Dear observer,"])
        self.assertLess(html.index("</header>"), html.index("<main"))

    def test_a_title_that_the_copyright_does_not_say_stays_the_title(self) -> None:
        _, outline, _ = page(LETTER.format(name="Snow of the Week", owner="Firnwatch Letters"))
        self.assertEqual(tagged(outline, "header"), [])
        self.assertEqual([words(n) for n in tagged(outline, "h1")], ["Snow of the Week"])


if __name__ == "__main__":
    unittest.main()
