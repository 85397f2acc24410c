"""The pages of a list of pages: numbers side by side, those that are left out, and the words that turn to the next one."""

from __future__ import annotations

import re
import unittest

from tests.core.test_menus import prose, tags, words
from tests.core.test_outline import line, reading
from tests.core.test_structure import PROSE, page


class Pages(unittest.TestCase):
    def test_numbers_that_follow_on_each_other_lead_to_pages(self) -> None:
        pages = [line(str(i), 1000 + 30 * i, 700, 3) for i in range(1, 6)]
        r = reading([line("Bulletins", 150, 100, 1), *prose(160, 16, 150), *pages])
        nav = [n for n in tags(r, "nav") if n.attributes["label"] == "Pages"]
        self.assertEqual([words(n) for n in nav], ["1 2 3 4 5"])
        self.assertTrue(all(c.tag == "a" for c in nav[0].children))
        years = [line(t, 1000 + 60 * i, 700, 3) for i, t in enumerate(("12", "40", "7"))]
        self.assertEqual(
            tags(reading([line("Depths", 150, 100, 1), *prose(160, 16, 150), *years]), "nav"), []
        )

    def test_signs_that_only_look_like_numbers_lead_to_no_pages(self) -> None:
        raised = [line(t, 1000 + 30 * i, 700, 3) for i, t in enumerate("²³¹")]
        r = reading([line("Bulletins", 150, 100, 1), *prose(160, 16, 150), *raised])
        self.assertEqual(tags(r, "nav"), [])

    def test_two_numbers_between_older_and_newer_lead_to_pages(self) -> None:
        entry = "<a style='border:1px solid #c4ced6;padding:6px 12px;margin-left:-1px;background:{}'>{}</a>"
        row = "".join(
            entry.format(*e)
            for e in (("#fff", "Previous"), ("#c9dbe4", "1"), ("#fff", "2"), ("#fff", "Next"))
        )
        outline = page(
            f"<main><h1>Bulletins</h1>{PROSE}<div style='display:flex;margin-top:20px'>{row}</div></main>"
        )[1]
        nav = next(n for n in outline.root.walk() if n.attributes.get("label") == "Pages")
        self.assertEqual(
            [(c.tag, words(c)) for c in nav.children], [("a", w) for w in ("Previous", "1", "2", "Next")]
        )

    def test_pages_that_are_left_out_are_between_those_that_are_named(self) -> None:
        entry = "<a style='border:1px solid #c4ced6;padding:6px 12px;margin-left:-1px;min-width:10px;height:40px;background:#eef3f6'>{}</a>"
        row = "".join(map(entry.format, ("Newer", "1", "2", "3", "", "15", "Older")))
        _, outline, html = page(
            f"<main><h1>Bulletins</h1>{PROSE}<div style='display:flex;margin-top:20px'>{row}</div></main>"
        )
        nav = next(n for n in outline.root.walk() if n.attributes.get("label") == "Pages")
        self.assertEqual([words(c) for c in nav.children], ["Newer", "1", "2", "3", "", "15", "Older"])
        self.assertEqual([c.tag for c in nav.children], ["a"] * 4 + ["div"] + ["a"] * 2)
        self.assertEqual(len(re.findall(r"<li\b", html)), 7)

    def test_numbers_that_do_not_follow_on_each_other_lead_to_no_pages(self) -> None:
        entry = "<a style='border:1px solid #c4ced6;padding:6px 12px;margin-left:-1px;height:40px'>{}</a>"
        row = "".join(map(entry.format, ("1", "2", "3", "15")))
        outline = page(
            f"<main><h1>Depths</h1>{PROSE}<div style='display:flex;margin-top:20px'>{row}</div></main>"
        )[1]
        self.assertNotIn("Pages", [n.attributes.get("label") for n in outline.root.walk()])

    def test_the_words_around_page_numbers_with_icons_of_their_own_are_in_their_list(self) -> None:
        icon = "<svg width='8' height='12' style='margin:0 8px'><path d='M6 1L2 6l4 5' stroke='#345' fill='none' stroke-width='2'/></svg>"
        number = (
            "<span style='display:inline-block;width:28px;text-align:center;line-height:28px{}'>{}</span>"
        )
        numbers = "".join(
            number.format(";background:#1f5f77;color:#fff;border-radius:4px" if k == 3 else "", k)
            for k in range(2, 6)
        )
        turn = "<span style='display:flex;align-items:center;gap:4px'>{}</span>"
        row = f"<div style='display:flex;align-items:center;margin-top:20px;gap:24px'>{turn.format(icon + 'prev')}<div style='display:flex'>{numbers}</div>{turn.format('next' + icon)}</div>"
        _, outline, html = page(f"<main><h1>Bulletins</h1>{PROSE}{row}{PROSE}</main>")
        nav = next(n for n in outline.root.walk() if n.attributes.get("label") == "Pages")
        self.assertEqual(
            [(c.tag, words(c)) for c in nav.children],
            [("a", w) for w in ("prev", "2", "3", "4", "5", "next")],
        )
        self.assertEqual(len(re.findall(r"<li\b", html)), 6)


if __name__ == "__main__":
    unittest.main()
