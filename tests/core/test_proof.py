"""Proof: numbers that are right on known differences, and corrections that cure them."""

from __future__ import annotations

import unittest
from dataclasses import replace

import numpy as np
from skimage.color import deltaE_ciede2000, rgb2lab

from neige.browser import draw_page
from neige.core.model import Fill, Node, Outline, Picture, Rect, Surface
from neige.core.outline import arrange
from neige.core.pipeline import ENOUGH, NEATNESS, settle
from neige.core.proof import compare, correct, difference_map, misplacement, prove, unrest
from neige.core.proof.compare import colour_difference, ssim
from neige.core.proof.corrections import innermost
from neige.core.writer import changed_values, write
from neige.core.writer.tokens import ratio, rem
from tests.core.test_outline import page


class Numbers(unittest.TestCase):
    def test_a_picture_is_like_itself(self) -> None:
        rng = np.random.default_rng(2)
        a = rng.integers(0, 255, (80, 120, 3)).astype(np.uint8)
        self.assertAlmostEqual(ssim(a, a), 1.0, places=5)
        self.assertEqual(float(colour_difference(a, a).max()), 0.0)

    def test_known_ciede2000(self) -> None:
        a = np.full((8, 8, 3), (255, 255, 255), np.uint8)
        b = np.full((8, 8, 3), (0, 0, 0), np.uint8)
        self.assertAlmostEqual(float(colour_difference(a, b).mean()), 100.0, places=2)

    def test_each_pixel_has_the_difference_of_its_own_colours(self) -> None:
        rng = np.random.default_rng(3)
        few = rng.integers(0, 255, (6, 3)).astype(np.uint8)
        a, b = (np.repeat(np.repeat(few[rng.integers(0, 6, (20, 30))], 2, 0), 2, 1) for _ in range(2))
        wanted = deltaE_ciede2000(*(rgb2lab(p[::2, ::2].astype(np.float32) / 255) for p in (a, b)))
        np.testing.assert_allclose(colour_difference(a, b), wanted, atol=1e-3)

    def test_what_was_compared_before_makes_no_difference(self) -> None:
        rng = np.random.default_rng(4)
        a = rng.integers(0, 255, (120, 64, 3)).astype(np.uint8)
        pages = [a.copy() for _ in range(5)]
        pages[1][40:43, 10:20] = 0
        pages[2][90:] = np.roll(pages[2], 7, axis=0)[90:]
        pages[3], pages[4] = pages[3][:97], np.concatenate([pages[4], pages[4][:30]])
        picture = np.concatenate([a[:, 1:], a[:, :1]], axis=1)

        def numbers(b: np.ndarray) -> tuple[float, np.ndarray]:
            height = min(len(picture), len(b))
            return ssim(picture[:height], b[:height]), colour_difference(picture[:height], b[:height])

        fresh = []
        for p in pages:
            compare._last.clear()
            fresh.append(numbers(p))
        for i in (0, 1, 0, 2, 3, 4, 2, 1, 3):
            alike, colours = numbers(pages[i])
            with self.subTest(page=i):
                self.assertAlmostEqual(alike, fresh[i][0], places=9)
                np.testing.assert_array_equal(colours, fresh[i][1])


class Corrections(unittest.TestCase):
    def setUp(self) -> None:
        self.reading = page()
        self.picture = Picture(np.full((900, 1440, 3), 255, np.uint8), 1)
        self.outline = arrange(self.reading)

    def draw(self, outline, pixels: bool = False):  # type: ignore[no-untyped-def]
        return draw_page(write(outline, self.reading, self.picture, subset=False), 1440, pixels=pixels)

    def test_a_wrong_gap_is_found_and_cured(self) -> None:
        good, _ = correct(self.outline, self.reading, self.draw(self.outline))
        before = misplacement(good, self.reading, self.draw(good))
        node = next(n for n in good.root.walk() if n.kind == "grid")
        node.gap += 37
        bad = misplacement(good, self.reading, self.draw(good))
        self.assertGreater(bad, before + 5)
        cured, changes = correct(good, self.reading, self.draw(good))
        self.assertGreater(changes, 0)
        self.assertLess(misplacement(cured, self.reading, self.draw(cured)), before + 0.5)

    def test_unrest_is_where_the_fault_is_and_does_not_add_up_below_it(self) -> None:
        good, _ = correct(self.outline, self.reading, self.draw(self.outline))
        calm = unrest(good, self.reading, self.draw(good))
        grid = next(n for n in good.root.walk() if n.kind == "grid")
        owner = next(n for n in good.root.walk() if grid in n.children)
        grid.gap += 15
        restless = unrest(good, self.reading, self.draw(good))
        grown = {k for k in restless if restless[k] > calm.get(k, 0.0) + 5}
        self.assertIn(owner.id, grown)
        self.assertLessEqual(len(grown), 3)

    def test_each_round_says_which_values_it_changed(self) -> None:
        good, _ = correct(self.outline, self.reading, self.draw(self.outline))
        bad = good.copy()
        next(n for n in bad.root.walk() if n.kind == "grid").gap += 37
        settled, rounds, _ = settle(bad, self.reading, self.picture, draw_page, lambda stage, what: None)
        self.assertEqual(rounds[0].values, ())
        before, after = (write(o, self.reading, self.picture).css for o in (bad, settled))
        self.assertTrue(any("margin-block-start: " in v and " → " in v for v in rounds[1].values))
        # all that differs in the end was changed in one of the rounds
        names = {v.split(": ")[0] for v in changed_values(before, after)}
        self.assertLessEqual(names, {v.split(": ")[0] for r in rounds for v in r.values})

    def test_values_that_differ_are_told_with_their_rule(self) -> None:
        before = ":root {\n  --a: #fff;\n}\n\n.card,\n.tile {\n  gap: 1rem;\n  padding: 2rem 1rem;\n}\n"
        after = (
            before.replace("1rem;\n  pad", "1.5rem;\n  pad").replace("#fff", "#eee")
            + "\n.note {\n  margin: 0;\n}\n"
        )
        self.assertEqual(changed_values(before, before), ())
        told = (":root --a: #fff → #eee", ".card, .tile gap: 1rem → 1.5rem", ".note margin: nothing → 0")
        self.assertEqual(changed_values(before, after), told)
        self.assertEqual(changed_values(after, before)[-1], "no longer needed: .note")
        less = before.replace("  padding: 2rem 1rem;\n", "")
        self.assertEqual(changed_values(before, less), (".card, .tile padding: 2rem 1rem → nothing",))
        many = "".join(f".c{i} {{\n  gap: {{0}};\n}}\n" for i in range(70))
        self.assertEqual(
            changed_values(many.replace("{0}", "1px"), many.replace("{0}", "2px"))[-1], "and 30 more"
        )

    def test_settling_never_ends_worse_than_it_began(self) -> None:
        for shift in (0.0, 60.0):
            start = arrange(self.reading)
            next(n for n in start.root.walk() if n.kind == "grid").gap += shift
            first = misplacement(start, self.reading, self.draw(start))
            best, rounds, _ = settle(start, self.reading, self.picture, draw_page, lambda stage, what: None)
            last = misplacement(best, self.reading, self.draw(best))
            self.assertLessEqual(min(r.error for r in rounds), round(first, 4))
            # what is placed well enough from the beginning may be put off by less than is worth a round, for round values
            self.assertLessEqual(last, max(first, ENOUGH))
            # values as somebody would write them may cost a little of what the best round reached
            self.assertLessEqual(last, min(r.error for r in rounds) + NEATNESS)
            self.assertLess(last, 0.6)

    def test_what_follows_a_part_that_cannot_cure_itself_makes_up_for_it(self) -> None:
        """The browser draws one part 3 px lower than it was seen, whatever is written: what is below it is put right all the same."""
        title = next(n for n in self.outline.root.walk() if n.kind == "text" and n.tag == "h1")

        def squeezed(written, width, **options):  # type: ignore[no-untyped-def]
            drawn = draw_page(written, width, **options)
            own = [w for w in drawn.words if w.node == title.id]
            below = drawn.nodes[title.id].rect.bottom - 1
            up = [
                replace(w, rect=Rect(w.rect.x, w.rect.y - 3, w.rect.w, w.rect.h))
                if w.rect.y > below or w is own[-1]
                else w
                for w in drawn.words
            ]
            nodes = {
                k: replace(b, rect=Rect(b.rect.x, b.rect.y - 3, b.rect.w, b.rect.h))
                if b.rect.y > below
                else b
                for k, b in drawn.nodes.items()
            }
            return replace(drawn, words=up, nodes=nodes)

        def gap(stuck: frozenset[int]) -> float:
            good, _ = correct(self.outline, self.reading, self.draw(self.outline))
            shot = squeezed(write(good, self.reading, self.picture, subset=False), 1440, pixels=False)
            better, _ = correct(good, self.reading, shot, stuck=stuck)
            holder = next(n for n in better.root.walk() if any(c.id == title.id for c in n.children))
            at = next(i for i, c in enumerate(holder.children) if c.id == title.id)
            return holder.children[at + 1].gap

        self.assertAlmostEqual(gap(frozenset({title.id})) - gap(frozenset()), 3, delta=0.2)

    def test_only_the_innermost_part_that_stays_wrong_is_made_up_for(self) -> None:
        inner, after = Node("text", Rect(0, 0, 9, 9), id=2), Node("text", Rect(0, 9, 9, 9), id=3)
        card = Node("block", Rect(0, 0, 9, 18), id=1, children=[inner, after])
        outline = Outline(
            Node("block", Rect(0, 0, 9, 40), id=0, children=[card, Node("text", Rect(0, 20, 9, 9), id=4)]), ""
        )
        self.assertEqual(innermost(outline, {1, 2}), {2})
        self.assertEqual(innermost(outline, {1}), {1})
        self.assertEqual(innermost(outline, {1, 3}), {1, 3})  # nothing in the card follows its last text
        card.surface = Surface(card.rect, Fill("#eeeeee"))  # whose padding can make up for it
        self.assertEqual(innermost(outline, {1, 3}), {3})

    def test_a_word_broken_within_itself_stays_on_its_line(self) -> None:
        shot = self.draw(self.outline)
        node = next(n for n in self.outline.root.walk() if n.kind == "text" and len(n.lines) == 1)
        broken = [
            replace(w, rect=Rect(w.rect.x, w.rect.y, w.rect.w / 2, 2 * w.rect.h)) if w.node == node.id else w
            for w in shot.words
        ]
        for words, kept in ((shot.words, False), (broken, True)):
            out, _ = correct(self.outline, self.reading, replace(shot, words=words))
            same = next(n for n in out.root.walk() if n.id == node.id)
            self.assertEqual(same.attributes.get("nowrap") == "1", kept)

    def test_a_corrected_outline_leaves_the_first_alone(self) -> None:
        gaps = [n.gap for n in self.outline.root.walk()]
        correct(self.outline, self.reading, self.draw(self.outline))
        self.assertEqual(gaps, [n.gap for n in self.outline.root.walk()])

    def test_a_word_in_anothers_place_is_one_finding(self) -> None:
        written = write(self.outline, self.reading, self.picture, subset=False)
        changed = type(written)(
            written.html.replace("Lantern", "Lamplight"), written.css, written.assets, written.paths
        )
        drawing = draw_page(changed, 1440)
        proof = prove(self.reading, self.picture, drawing)
        texts = [(f.kind, f.text) for f in proof.findings]
        self.assertEqual([k for k, t in texts if "Lantern" in t or "Lamplight" in t], ["word"])
        self.assertTrue(any("it says “Lamplight”, the picture says “Lantern”" in t for _, t in texts))
        self.assertEqual(proof.words_seen - proof.words_found, 1)
        self.assertEqual(
            difference_map(self.picture.pixels, drawing.pixels, self.picture.scale).shape[1], 1440
        )


class Written(unittest.TestCase):
    def test_lengths_survive_a_browser_that_cuts_off_64ths(self) -> None:
        for px in (0.5, 1.25, 7.5, 20.0, 21.33, -0.5):
            drawn = np.trunc(float(rem(px).removesuffix("rem")) * 16 * 64) / 64
            self.assertLessEqual(abs(drawn - px), 1 / 64 if px != 21.33 else 1 / 40, px)
        self.assertEqual((rem(0.5), rem(24.0), rem(0.01)), ("0.0313rem", "1.5rem", "0"))

    def test_line_heights_are_the_shortest_ratio_that_gives_the_length(self) -> None:
        for length, size in ((18.0, 14.0), (19.0, 15.0), (24.0, 16.0), (21.0, 13.2)):
            text = ratio(length, size)
            self.assertEqual(np.floor(float(text) * size * 64) / 64, length)
            self.assertLessEqual(len(text), 6)
        self.assertEqual(ratio(24.0, 16.0), "1.5")


if __name__ == "__main__":
    unittest.main()
