"""Pieces of one picture are joined; pictures of their own stay so."""

from __future__ import annotations

import unittest

from neige.core.model import Cutout, Rect
from neige.core.reading.surfaces.pieces import join_pieces


def cut(x: float, y: float, w: float, h: float, kind: str = "icon", **more: object) -> Cutout:
    return Cutout(Rect(x, y, w, h), kind, **more)  # type: ignore[arg-type]


class Pieces(unittest.TestCase):
    def rects(
        self, cutouts: list[Cutout], texts: list[Rect] | None = None, told: list[Rect] | None = None
    ) -> list[Rect]:
        return [c.rect for c in join_pieces(cutouts, texts or [], told or [])]

    def test_a_mark_in_three_pieces_is_one_picture(self) -> None:
        mark = [cut(14, 9, 124, 78, "image"), cut(139, 51, 87, 37), cut(125, 88, 24, 12)]
        joined = join_pieces(mark, [])
        self.assertEqual([c.rect for c in joined], [Rect(14, 9, 212, 91)])
        self.assertEqual(joined[0].kind, "image")
        self.assertEqual(join_pieces(joined, []), joined)

    def test_tiles_an_icon_with_its_badge_and_what_reaches_beyond_stay_apart(self) -> None:
        tiles = [cut(0, 0, 480, 258, "image"), cut(480, 0, 480, 258, "image")]
        badge = [cut(1147, 20, 16, 16), cut(1164, 9, 10, 10)]
        beyond = [cut(77, 581, 417, 277, "image"), cut(0, 829, 76, 91)]
        for apart in (tiles, badge, beyond):
            self.assertEqual(self.rects(apart), [c.rect for c in apart])

    def test_set_text_and_what_the_developer_said_keep_them_apart(self) -> None:
        mark = [cut(14, 9, 124, 78, "image"), cut(139, 51, 87, 30)]
        self.assertEqual(len(self.rects(mark)), 1)
        self.assertEqual(len(self.rects(mark, texts=[Rect(150, 20, 60, 14)])), 2)
        self.assertEqual(len(self.rects(mark, told=[Rect(139, 51, 87, 30)])), 2)

    def test_on_another_ground_it_is_a_picture_of_its_own(self) -> None:
        mark = [cut(14, 9, 124, 78, "image"), cut(139, 51, 87, 30, ground="#223344")]
        self.assertEqual(len(self.rects(mark)), 2)


if __name__ == "__main__":
    unittest.main()
