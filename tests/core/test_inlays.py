"""Boxes inside a line: code on its tint, keys, badges in a sentence."""

from __future__ import annotations

import re
import unittest
from dataclasses import replace

from neige.browser import draw_page
from neige.core.model import Fill, Line, Node, Rect, Surface
from neige.core.model.outline import Run
from neige.core.outline import arrange, check
from neige.core.outline.inlays import Inlay, find_inlays, lay_in
from neige.core.outline.words import node_text
from neige.core.writer import write
from tests.core.test_outline import STYLES, blank, html, line, reading

PADDING = 6.0


def boxed(text: str, word: str, x: float, baseline: float, tail: str = "") -> tuple[Line, Surface]:
    """A line with a box round one word, 6 px from it at both sides; `tail` stands right after the box."""
    whole = line(text, x, baseline)
    at = next(k for k, w in enumerate(whole.words) if w.text == word)
    words = [
        replace(w, x=w.x + PADDING * ((k >= at) + (k > at)), text=w.text + (tail if k == at else ""))
        for k, w in enumerate(whole.words)
    ]
    w = words[at]
    if tail:
        words[at] = replace(w, w=w.w + PADDING + 4)
    box = Rect(w.x - PADDING, baseline - 16, w.w + 2 * PADDING, 21)
    return replace(whole, words=tuple(words)), Surface(box, Fill("#eef2f5"), 3.0)


class Inlays(unittest.TestCase):
    def test_what_stands_between_a_box_and_a_link_is_no_part_of_the_link(self) -> None:
        first, box = boxed("depth see the whole list of stakes", "depth", 150, 200, tail=":")
        linked = tuple(replace(w, style=2) if k else w for k, w in enumerate(first.words))
        r = reading(
            [
                replace(first, words=linked, style=2),
                *(line("read from the stake", 150, 260 + 24 * i) for i in range(9)),
            ],
            [box],
        )
        styles = tuple(replace(s, underline=k == 2) for k, s in enumerate(STYLES))
        self.assertRegex(
            html(replace(r, styles=styles)), r"depth</span>:\s+<a[^>]*>see the whole list of stakes</a>"
        )

    def test_a_box_in_a_sentence_is_painted_by_its_own_run(self) -> None:
        first, box = boxed("the field depth holds centimetres of snow", "depth", 150, 200)
        r = reading([first, line("read from the stake before eight in the morning", 150, 224)], [box])
        page = html(r)
        self.assertRegex(page, r"the field <span class=\"mark\">depth</span> holds")
        self.assertEqual(page.count("aria-hidden"), 0, "the box is no part of its own")

    def test_what_touches_a_box_has_no_space_before_it(self) -> None:
        for opening, closing, wanted in (
            ("(", ",", "see (depth, then snow"),
            ("(", ").", "see (depth). then snow"),
            ("", "s", "see depths then snow"),
            ("", "email", "see depth email then snow"),  # an entry of a bar beside the current one
            ("the", "", "see the depth then snow"),
        ):
            with self.subTest(wanted):
                text = " ".join(t for t in ("see", opening, "depth", closing, "then snow") if t)
                whole, box = boxed(text, "depth", 150, 200)
                words = list(whole.words)
                at = next(k for k, w in enumerate(words) if w.text == "depth")
                if opening == "(":
                    words[at - 1] = replace(words[at - 1], x=box.rect.x - words[at - 1].w - 0.1)
                if closing:
                    w, x = words[at + 1], box.rect.right + (-1 if closing[0] in ",)" else 0.2)
                    words[at + 1] = replace(w, x=x, ink=replace(w.ink, x=box.rect.right + 1))
                first = replace(whole, words=tuple(words))
                r = reading([first, line("read from the stake before eight in the morning", 150, 224)], [box])
                found = next(n for n in arrange(r).root.walk() if n.kind == "text")
                self.assertTrue(node_text(found).startswith(wanted), node_text(found))

    def test_a_stop_right_after_a_box_stays_there(self) -> None:
        whole, box = boxed("the field depth holds centimetres of snow", "depth", 150, 200)
        for space, wanted in (
            (0.0, r"depth</span>\. holds"),
            (PADDING - 1.0, r"depth</span>\. holds"),  # still in the box's padding
            (PADDING + 5.0, r"depth</span> \. holds"),
        ):
            words = list(whole.words)
            k = next(n for n, w in enumerate(words) if w.text == "depth")
            w = words[k] = replace(words[k], style=2)
            ink = Rect(max(box.rect.right, w.x + w.w + space) + 1, w.ink.bottom - 2, 2, 2)
            words.insert(k + 1, replace(w, text=".", x=w.x + w.w + space, w=4.0, ink=ink, style=0))
            r = reading([replace(whole, words=tuple(words))], [box])
            self.assertRegex(re.sub(r"\s+", " ", html(r)), wanted)

    def test_its_words_are_drawn_where_they_were_seen(self) -> None:
        first, box = boxed("the field depth holds centimetres of snow", "depth", 150, 200)
        r = reading([first], [box])
        drawing = draw_page(write(arrange(r), r, blank(), subset=False), 1440, pixels=False)
        at = {w.text: w.rect.x for w in drawing.words}
        for w in first.words:
            self.assertAlmostEqual(at[w.text] - at["the"], w.x - first.words[0].x, delta=1.5, msg=w.text)

    def test_code_in_two_inks_beside_a_box_stands_together(self) -> None:
        first, box = boxed("the field depth holds name='stake' of snow", "depth", 150, 200)
        code = next(w for w in first.words if w.text == "name='stake'")
        n, half = first.words.index(code), code.w * 5 / 12
        r = reading([first], [box])
        mono = replace(r.styles[0], category="monospace", family="DejaVu Sans Mono")
        styles = (*r.styles, mono, replace(mono, colour="#1d6fb8"))
        parts = (
            replace(code, text="name=", w=half, style=len(r.styles)),
            replace(code, text="'stake'", x=code.x + half, w=code.w - half, style=len(r.styles) + 1),
        )
        words = (*first.words[:n], *parts, *first.words[n + 1 :])
        r = replace(r, styles=styles, lines=(replace(first, words=words),))
        texts = [node_text(n) for n in arrange(r).root.walk() if n.kind == "text"]
        self.assertEqual(texts, ["the field depth holds name='stake' of snow"])

    def test_boxes_in_a_block_of_code_leave_its_lines_and_spaces(self) -> None:
        said = "stake = read(\n    'ridge', depth\n)"
        node = Node("text", Rect(0, 0, 300, 60), tag="pre", runs=[Run(said, 0, glue=True)], lines=[0, 1, 2])
        code = [line(t, 150, 200 + 20 * i) for i, t in enumerate(("stake = read(", "'ridge', depth", ")"))]
        word = code[1].words[0]
        tint = Surface(Rect(word.x - 1, 204, word.w - 3, 21), Fill("#fff0f0"))
        r = reading(code, [tint])
        lay_in(Node("block", Rect(0, 0, 600, 400), children=[node]), r, {1: [Inlay(tint, 0, 0, "", ",")]})
        self.assertEqual("".join(run.text for run in node.runs), said)
        self.assertEqual([run.text for run in node.runs if run.box], ["'ridge'"])

    def test_a_comma_after_the_box_stays_outside_of_it(self) -> None:
        first, box = boxed("the field depth holds centimetres", "depth", 150, 200, tail=",")
        page = html(reading([first], [box]))
        self.assertRegex(page, r">depth</span>, holds")

    def test_a_button_is_no_inlay_and_neither_is_a_line_of_its_own(self) -> None:
        button = Surface(Rect(150, 180, 120, 40), Fill("#1f5f77"), 6.0)
        alone = Surface(Rect(146, 284, 300, 22), Fill("#eef2f5"))
        r = reading([line("Send", 190, 206), line("Lantern Hut", 150, 300)], [button, alone])
        self.assertEqual(find_inlays(r), {})

    def test_monospaced_words_in_an_ink_of_their_own_are_code_and_no_link(self) -> None:
        mono = replace(STYLES[2], family="Inconsolata", category="monospace", colour="#d53384")
        words = line("use the word depth for it", 150, 200).words
        text = replace(
            line("use the word depth for it", 150, 200),
            words=tuple(replace(w, style=4) if w.text == "depth" else w for w in words),
        )
        link = line("see the station list for more", 150, 260)
        link = replace(
            link, words=tuple(replace(w, style=2) if w.text in ("station", "list") else w for w in link.words)
        )
        r = replace(reading([text, link]), styles=(*STYLES, mono))
        page = html(r)
        self.assertTrue(re.search(r"<code[^>]*>depth</code>", page))
        self.assertTrue(re.search(r"<a[^>]*>station list</a>", page))
        # the check says so where a link's ink is too near its text's
        said = [f.text for f in check(arrange(r), r)]
        self.assertTrue(any("colour alone" in t for t in said), said)
        plain = replace(r, styles=(*STYLES[:2], replace(STYLES[2], underline=True), *STYLES[3:], mono))
        self.assertFalse(any("colour alone" in f.text for f in check(arrange(plain), plain)))


if __name__ == "__main__":
    unittest.main()
