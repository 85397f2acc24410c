"""What leads somewhere: words set apart from their text, short texts in a footer, the pictures of cards."""

from __future__ import annotations

import re
from collections import defaultdict

import numpy as np

from neige.core.model import Node, Reading, Rect, TypeStyle
from neige.core.model.outline import HEADINGS
from neige.core.outline.stacks import as_link, link_whole
from neige.core.outline.words import ACTION, ADDRESS, body_style, node_text, texts_in
from neige.core.reading.colour import chroma, from_hex, oklab
from neige.core.reading.logos import HEAD

LOGO = 72.0  # px that the page's logo is high at most
PHOTO = (140.0, 90.0)  # px: a card's picture is at least as large
LINKED = 2  # words of prose in an ink that links have
CARDS = 3  # so many cards, or
FELLOWS = 3  # words beside each other
REPEATED, REPEATED_WORDS = 2, 3  # texts that are links elsewhere, and words that they have at most
FELLOW_LEVEL = 3.0  # px by which their middles may differ
FOOT_HIGH, FOOT_WORDS = 72.0, 4  # px of a card's foot that leads somewhere, and its words
MINOR = (
    0.25  # of the words in the page's link ink: a rarer one says something else than that it leads somewhere
)
COLOURED, GREY = 0.07, 0.03  # chroma of words that stand out in a grey text
SHARE = re.compile(r"[(+−–-]*\d[\d.,]*\s?%\)?")  # says good or bad by its ink, and leads nowhere
NAMES = re.compile(r"\w")  # what leads somewhere says where
ENTRY_WORDS = 4  # of an entry under others in a navigation,
ENTRY_SIZE = 0.03  # and by which its size may differ from theirs
GALLERY = 4  # so many pictures beside each other, are alike
SAME_SIZE = (4.0, 12.0)  # px by which the widths and heights of like pictures may differ


def link_texts(root: Node, reading: Reading) -> None:
    """Underlined words and words in the accent colour inside other text are links; so are short accent texts."""
    base = reading.styles[body_style(reading)]
    accents = {
        i
        for i, s in enumerate(reading.styles)
        if s.underline or (chroma(s.colour) > 0.09 and s.weight < 700 and s.size <= 1.6 * base.size)
    }

    # code is often set in an ink of its own: only the ink of links in prose makes it one
    inks: dict[str, int] = defaultdict(int)
    code_boxes = set()
    for r in (r for t in texts_in(root) for r in t.runs):
        code = reading.styles[r.style].category == "monospace"
        if r.style in accents and not code:
            inks[reading.styles[r.style].colour] += len(r.text.split())
        if code and r.box:
            code_boxes.add((r.box.fill.colour, r.box.border_colour))

    words: dict[int, int] = defaultdict(int)
    for t in texts_in(root):
        for r in t.runs:
            words[r.style] += len(r.text.split())
    usual = max((i for i in accents if not reading.styles[i].underline), key=lambda i: words[i], default=-1)

    prose = {t.style for t in texts_in(root) if node_text(t)[-1:] in (":", ",")}

    def leads(i: int) -> bool:
        """Is a style's ink that of the page's links, rather than one that says good, bad or new, or that of its text?"""
        s = reading.styles[i]
        if s.underline:
            return True
        if usual < 0 or i in prose:
            return i not in prose
        a, b = oklab(from_hex(s.colour)), oklab(from_hex(reading.styles[usual].colour))
        return float(np.hypot(*(a - b)[1:])) < 0.07 or words[i] >= MINOR * words[usual]

    def says(n: Node) -> bool:
        """Words that a link may have: not a number, a price or a code, nor a sentence."""
        text = node_text(n)
        if re.search(r"\d", text) and _is_verdict(reading.styles[n.style].colour):
            return False
        return bool(re.search(r"[^\W\d_]{2}", text)) and not text.startswith("#") and (
            not text.endswith(".") or len(text.split()) > 3
        )  # fmt: skip

    def dated(n: Node) -> bool:
        return bool(re.search(r"\b(19|20)\d\d\b.*([-–—]|\b(19|20)\d\d)", node_text(n)))

    def visit(n: Node, linked: bool, in_foot: bool) -> None:
        inside = linked or n.tag in ("a", "button", "label")
        if n.kind == "tr" and len(n.children) > 2:  # a row all in one ink says good or bad
            inside = inside or all(
                t.style in accents and not reading.styles[t.style].underline for t in texts_in(n)
            )
        if n.kind == "text" and n.tag == "label" and not linked:
            plain = [r for r in n.runs if r.style not in accents]
            for r in n.runs if plain else []:  # words in a label that lead somewhere
                r.tag = "a" if r.style in accents and not reading.styles[r.style].strike else r.tag
        if n.kind == "text" and not inside and n.tag in ("p", "span", "td"):
            main = reading.styles[n.style]
            # in the ink of plain text an address is only to be read
            told = main.underline or chroma(main.colour) > GREY
            if (ADDRESS.fullmatch(node_text(n)) and told) or (
                n.style in accents
                and len(n.runs) == 1
                and len(n.lines) <= 2
                and len(node_text(n).split()) <= 8
                and NAMES.search(node_text(n))
                and (
                    main.underline
                    or not main.uppercase
                    or (ACTION.match(node_text(n)) and 2 <= len(node_text(n).split()) <= 3)
                )
                and (main.underline or (leads(n.style) and says(n)))
                and (
                    main.underline
                    or not (dated(n) or (main.category == "monospace" and inks[main.colour] < LINKED))
                )
            ):
                n.tag = "a"
            else:
                plain = [r for r in n.runs if not reading.styles[r.style].underline and r.box is None]
                if main.underline and plain:  # the words between the links are the text's own
                    own = max(plain, key=lambda r: sum(c.isalnum() for c in r.text))
                    n.style, main = own.style, reading.styles[own.style]
                mixed = (  # most words of a trail of links are its links
                    n.style in accents
                    and main.category != "monospace"
                    and leads(n.style)
                    and any(chroma(reading.styles[r.style].colour) < 0.05 for r in n.runs)
                )
                for r in n.runs:
                    s = reading.styles[r.style]
                    if r.style == n.style and r.box is None:
                        figure = SHARE.fullmatch(r.text.strip())
                        if mixed and len(r.text) > 1 and not main.underline and not figure:
                            r.tag = "a"
                        continue
                    if SHARE.fullmatch(r.text.strip()) and not s.underline:
                        r.tag = "strong" if s.weight >= main.weight + 200 else ""
                        continue
                    if r.box is not None:
                        r.tag = "code" if (r.box.fill.colour, r.box.border_colour) in code_boxes else ""
                        continue
                    bold = s.weight >= 700 and chroma(s.colour) > 0.09 and usual >= 0 and leads(r.style)
                    coloured = r.style in accents or (
                        chroma(s.colour) > COLOURED and chroma(main.colour) < GREY
                    )
                    lively = (coloured or bold) and chroma(s.colour) > chroma(main.colour) + 0.05
                    code = main.category == "monospace" or (
                        s.category == "monospace" and inks[s.colour] < LINKED
                    )
                    named = in_foot and _is_named(s, main) and bool(re.search(r"[^\W\d_]{3}", r.text))
                    if s.underline or (lively and not code) or named:
                        r.tag = "a"
                    elif s.category == "monospace" and main.category != "monospace":
                        r.tag = "code"
                    elif s.weight >= main.weight + 200:
                        r.tag = "strong"
                    elif s.italic and not main.italic:
                        r.tag = "em"
        if n.kind == "text" and n.tag in HEADINGS and not inside:
            s = reading.styles[n.style]
            for r in n.runs:
                mono = reading.styles[r.style].category == "monospace" and s.category != "monospace"
                r.tag = "a" if s.underline else "code" if mono else r.tag
        for c in n.children:
            visit(c, inside, in_foot or n.tag == "footer")

    visit(root, False, False)
    for foot in (n for n in root.walk() if n.tag == "footer"):
        groups: dict[int, list[Node]] = defaultdict(list)
        heads = {t.style for t in texts_in(foot) if t.tag in HEADINGS}
        for t in texts_in(foot):
            if (
                t.tag == "p"
                and t.style not in heads  # it is over something, as those are
                and len(t.lines) == 1
                and len(node_text(t).split()) <= 3
                and not re.search(r"©|\d{3}|copyright", node_text(t), re.I)
            ):
                groups[t.style].append(t)
        for members in groups.values():
            if len(members) >= 2:
                for t in members:
                    t.tag = "a"


def _is_named(s: TypeStyle, main: TypeStyle) -> bool:
    """Do words in the foot's text differ from it by their ink alone? Who made the page, and with what, is linked there."""
    alike = (s.family, s.size, s.weight, s.italic) == (main.family, main.size, main.weight, main.italic)
    return alike and s.colour != main.colour


def _is_verdict(colour: str) -> bool:
    """Is an ink green or red, which say of a figure that it is good or bad?"""
    _, a, b = oklab(from_hex(colour))
    hue = float(np.degrees(np.arctan2(b, a))) % 360
    return hue < 45 or 130 <= hue <= 172 or hue > 345


def link_fellows(root: Node, reading: Reading) -> None:
    """In a row of short words set alike, of which some lead somewhere, the others do, too: tabs, a switch, the days of a week."""
    for n in root.walk():
        if n.kind != "row" or n.tag not in ("div", "nav") or len(n.children) < FELLOWS:
            continue
        texts = [texts_in(c) for c in n.children]
        if any(len(t) != 1 or len(t[0].lines) != 1 or len(node_text(t[0]).split()) > 2 for t in texts):
            continue
        sizes = [reading.styles[t[0].style].size for t in texts]
        weights = [reading.styles[t[0].style].weight for t, c in zip(texts, n.children) if c.surface is None]
        level = max(t[0].rect.cy for t in texts) - min(t[0].rect.cy for t in texts) <= FELLOW_LEVEL
        led = [c for c in n.children if c.tag in ("a", "button")]
        plain = [c for c in n.children if c.kind == "text" and c.tag == "p"]
        if not led or len(led) + len(plain) < len(n.children) or max(sizes) > 1.07 * min(sizes) or not level:
            continue
        if weights and max(weights) - min(weights) > 200 and len(n.children) == FELLOWS:
            continue  # a name, its value and what to do with it
        if all(node_text(c)[:1].isalpha() for c in plain):
            for c in plain:
                c.tag = "a"
                c.reasons.append("beside words set alike that lead somewhere")
    for holder in (h for nav in root.walk() if nav.tag == "nav" for h in nav.walk() if h.kind == "block"):
        _link_stacked(holder, reading)


def _link_stacked(holder: Node, reading: Reading) -> None:
    """Under or over an entry of a navigation, short words of its size lead somewhere, too; a head that says what they are does not."""
    led = [reading.styles[c.style].size for c in holder.children if c.kind == "text" and c.tag == "a"]
    for c in holder.children:
        said = node_text(c)
        short = c.kind == "text" and c.tag == "p" and len(c.lines) == 1 and len(said.split()) <= ENTRY_WORDS
        heads = said.isupper() or said[-1:] == ":" or not said[:1].isalpha()
        alike = any(abs(reading.styles[c.style].size / size - 1) <= ENTRY_SIZE for size in led if short)
        if alike and not heads:
            c.tag = "a"
            c.reasons.append("in a navigation, with an entry set alike")


def link_repeated(root: Node) -> None:
    """Short texts under one another or in a row, several of which are links elsewhere on the page, lead somewhere: the site's map."""
    linked = {
        said
        for n in root.walk()
        if n.tag == "a" and len((said := node_text(n)).split()) <= REPEATED_WORDS and NAMES.search(said)
    }
    inside = {id(d) for n in root.walk() if n.tag in ("a", "button", "table", "label") for d in n.walk()}
    for n in root.walk():
        if n.kind not in ("block", "row") or id(n) in inside:
            continue
        entries = [
            c for c in n.children
            if c.kind == "text" and c.tag == "p" and len(c.lines) == 1 and len(node_text(c).split()) <= REPEATED_WORDS
        ]  # fmt: skip
        known = [c for c in entries if node_text(c) in linked]
        alike = len({c.style for c in entries}) == 1
        if len(known) >= REPEATED and alike and 2 * len(known) >= len(entries):
            for c in (c for c in entries if NAMES.search(node_text(c))):
                as_link(c)
                c.reasons.append("a link elsewhere on the page, or among such")


def press_fellows(root: Node) -> None:
    """Boxes of one height side by side, each with one short text and as many icons: if one is a button, all are."""
    for n in root.walk():
        boxes = n.children
        if n.kind not in ("row", "grid") or len(boxes) < 2 or any(c.surface is None for c in boxes):
            continue
        pressed = [c for c in boxes if c.tag in ("a", "button") and c.attributes.get("role") == "button"]
        if not pressed or any(
            c.tag not in ("a", "button", "div") or c.kind not in ("row", "block") for c in boxes
        ):
            continue
        heights = [c.rect.h for c in boxes]
        inside = {tuple(sorted(d.kind for d in c.walk() if not d.children)) for c in boxes}
        said = [texts_in(c) for c in boxes]
        short = all(len(t) == 1 and len(t[0].lines) == 1 and len(node_text(t[0]).split()) <= 2 for t in said)
        if max(heights) - min(heights) <= FELLOW_LEVEL and len(inside) == 1 and short:
            for c in boxes:
                if c.tag == "div":
                    c.tag = pressed[0].tag
                    c.attributes["role"] = "button"
                    c.reasons.append("beside a box like it that is a button")
                    for d in c.walk()[1:]:
                        d.tag = "span" if d.kind != "image" else d.tag


def link_feet(root: Node) -> None:
    """Words that say what to do, in the middle of the strip that a line parts from the rest of a card at its foot: all of it leads there."""
    for card in root.walk():
        if card.surface is None or card.kind != "block" or len(card.children) < 2:
            continue
        above, foot = card.children[-2:]
        parted = bool(above.surface and above.surface.border[2]) or bool(
            foot.surface and foot.surface.border[0]
        )
        texts = texts_in(foot)
        _, right, _, left = foot.padding
        said = len(texts) == 1 and len(texts[0].lines) == 1 and len(node_text(foot).split()) <= FOOT_WORDS
        plain = foot.kind == "block" and foot.tag == "div" and foot.rect.h <= FOOT_HIGH
        wide = foot.rect.w >= card.rect.w - 4 and abs(left - right) <= 4 and above.rect.w >= card.rect.w - 4
        if parted and said and plain and wide and ACTION.match(node_text(foot)):
            link_whole(foot)
            foot.reasons.append("what to do, in the strip at a card's foot")


def link_pictures(root: Node, reading: Reading) -> None:
    """The pictures of like cards lead to what the cards are about, if nothing else in them does; those of a gallery, too."""
    around = {id(c): n for n in root.walk() for c in n.children}
    for n in root.walk():  # the logo leads home
        said = reading.cutouts[n.cutout].text if n.kind == "image" else ""
        if said.isalpha() and n.rect.bottom < HEAD and n.rect.h <= LOGO:
            n.attributes["linked"] = "1"
    groups: list[list[tuple[Node, Node | None]]] = []
    for n in root.walk():
        if n.kind != "image" or n.rect.w < PHOTO[0] or n.rect.h < PHOTO[1]:
            continue
        cutout = reading.cutouts[n.cutout]
        if cutout.kind != "image" or cutout.radius > 0.3 * n.rect.h:
            continue
        like = next((g for g in groups if _same_size(g[0][0].rect, n.rect)), None)
        if like is None:
            groups.append(like := [])
        like.append((n, _card(n, around)))
    for alike in groups:
        cards = [(n, c) for n, c in alike if c is not None]
        bare = [
            n for n, c in alike if c is None and sum(around[id(m)] is around[id(n)] for m, _ in alike) >= 2
        ]
        asking = sum(any(_is_button(d) for d in c.walk()) for _, c in cards)
        if len(cards) >= CARDS and asking <= 0.2 * len(cards):
            for n, card in cards:
                n.attributes["linked"] = "1"
                n.attributes.setdefault("alt", " ".join(node_text(texts_in(card)[0]).split()[:8]))
        elif len(bare) >= GALLERY and len(alike) == len(bare):
            for k, n in enumerate(bare, 1):
                n.attributes["linked"] = "1"
                n.attributes.setdefault("alt", f"Picture {k} of {len(bare)}")


def _same_size(a: Rect, b: Rect) -> bool:
    return abs(a.w - b.w) <= SAME_SIZE[0] and abs(a.h - b.h) <= SAME_SIZE[1]


def _is_button(n: Node) -> bool:
    """Something to press that has a box of its own or asks to be: it is where the card leads."""
    pressed = n.tag in ("a", "button") and n.attributes.get("role") != "badge"
    return pressed and (n.surface is not None or bool(ACTION.match(node_text(n))))


def _card(picture: Node, around: dict[int, Node]) -> Node | None:
    """The box of a picture that fills its width, with words under it; None if the picture stands by itself."""
    n = around.get(id(picture))
    while n is not None and n.rect.w <= 1.25 * picture.rect.w:
        texts = texts_in(n)
        if texts:
            under = min(t.rect.y for t in texts) >= picture.rect.bottom - 2
            return n if under and len(node_text(n).split()) <= 60 else None
        n = around.get(id(n))
    return None
