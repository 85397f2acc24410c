"""The room of links: what can be hit of them in bars and feet."""

from __future__ import annotations

import unittest

from neige.browser import draw_page
from neige.core.writer import write
from tests.core.test_menus import words
from tests.core.test_structure import PROSE, STYLE, drawn, page


class Room(unittest.TestCase):
    """What can be hit of links is larger than their words."""

    def heights(self, body: str, names: tuple[str, ...]) -> list[float]:
        found, outline, _ = page(body)
        picture = drawn(STYLE + body, 900)[0]
        nodes = draw_page(write(outline, found, picture), 900).nodes
        links = [n for n in outline.root.walk() if n.tag == "a" and words(n) in names]
        self.assertEqual([words(n) for n in links], list(names))
        return [round(nodes[n.id].rect.h) for n in links]

    def test_links_side_by_side_in_a_foot_have_some_room(self) -> None:
        names = ("Stations", "Manual", "Licence")
        links = "".join(f"<a style='margin-left:24px'>{n}</a>" for n in names)
        foot = f"<footer style='border-top:1px solid #ccd;padding:24px 40px;display:flex;justify-content:space-between;font-size:14px;line-height:18px'><span>Copyright the observers</span><span>{links}</span></footer>"
        self.assertEqual(self.heights(f"<main><h1>Depths</h1>{PROSE * 5}</main>{foot}", names), [24, 24, 24])

    def test_a_name_in_a_bar_is_as_high_as_its_links(self) -> None:
        names = ("Stations", "Manual", "Bulletins")
        links = "".join(f"<a style='margin-left:32px'>{n}</a>" for n in names)
        bar = f"<nav style='background:#e8eef2;padding:20px 40px;display:flex;justify-content:space-between;line-height:20px'><b style='font-size:20px'>Firnwatch</b><span>{links}</span></nav>"
        self.assertEqual(
            self.heights(f"{bar}<main><h1>Depths</h1>{PROSE * 5}</main>", ("Firnwatch", *names)), 4 * [40]
        )


if __name__ == "__main__":
    unittest.main()
