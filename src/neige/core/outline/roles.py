"""What each part is: evidence adds up to landmarks, headings, links, buttons, fields, lists. Tags are HTML's own."""

from __future__ import annotations

from neige.core.model import Node, Reading
from neige.core.outline.borders import border_lines, join_strips
from neige.core.outline.columns import part_articles
from neige.core.outline.disclosures import find_disclosures
from neige.core.outline.dotted import list_dotted
from neige.core.outline.entries import border_entries
from neige.core.outline.foot import find_foot, trim_foot
from neige.core.outline.forms import (
    find_forms,
    group_choices,
    join_buttons,
    name_beside,
    name_fields,
    press_words,
    tick_columns,
)
from neige.core.outline.headings import give_headings
from neige.core.outline.icons import link_actions, link_icons
from neige.core.outline.landmarks import find_landmarks
from neige.core.outline.links import (
    link_feet,
    link_fellows,
    link_pictures,
    link_repeated,
    link_texts,
    press_fellows,
)
from neige.core.outline.lists import find_lists, piled
from neige.core.outline.menus import find_menus, join_current, link_apart, open_menus, wrap_searches
from neige.core.outline.nested import nest_lists
from neige.core.outline.pages import link_pages
from neige.core.outline.pairs import find_pairs
from neige.core.outline.posts import link_posts
from neige.core.outline.quotes import border_bars
from neige.core.outline.side_lists import join_side_lists
from neige.core.outline.sides import part_brands
from neige.core.outline.site_name import lift_site_name
from neige.core.outline.stacks import stack_lists
from neige.core.outline.targets import reach_in_bars, room_in_feet
from neige.core.outline.top_bar import bar_of_head, bare_bar, lift_head, room_below
from neige.core.outline.trails import find_trails
from neige.core.outline.underlined import find_underlined
from neige.core.outline.words import body_style, node_text, texts_in

PANEL_HEAD = 84.0  # px: a higher strip at a card's top is not its head
PLACES = ("header", "nav", "main", "section", "article", "aside", "footer")  # of a page: none is a control


def give_roles(root: Node, reading: Reading) -> str:
    """Set tags from evidence, top-down; the page's title is returned."""
    if not reading.styles:
        root.children = (
            [Node("block", root.rect, tag="main", children=root.children, width="fill")]
            if root.children
            else []
        )
        return "Untitled page"
    join_current(root)
    join_strips(root)
    find_underlined(root, reading)
    find_landmarks(root, reading)
    find_foot(root, reading)
    trim_foot(root)
    lift_site_name(root)
    _foot_heads(root, reading)
    find_menus(root, reading)
    lift_head(root)
    _panel_heads(root, reading)
    border_bars(root)
    find_pairs(root)
    link_actions(root)
    give_headings(root, reading)
    part_articles(root)
    tick_columns(root)
    name_fields(root)
    name_beside(root)
    link_texts(root, reading)
    find_trails(root)
    link_pictures(root, reading)
    link_icons(root, reading)
    link_fellows(root, reading)
    link_repeated(root)
    link_posts(root, reading)
    press_fellows(root)
    link_feet(root)
    link_pages(root)
    link_apart(root)
    open_menus(root)
    list_dotted(root)
    stack_lists(root, reading)
    room_in_feet(root)
    border_entries(root)
    border_lines(root)
    find_disclosures(root)
    find_lists(root, reading)
    group_choices(root)
    wrap_searches(root, boxed=True)
    find_forms(root)
    join_buttons(root)
    press_words(root)
    wrap_searches(root)
    bar_of_head(root)
    part_brands(root)
    join_side_lists(root, reading)
    nest_lists(root)
    room_below(root)
    bare_bar(root)
    reach_in_bars(root, reading)
    _tell_navs_apart(root)
    for n in root.walk():  # a bar of few words may have looked like a button until its place was known
        if n.tag in PLACES:
            n.attributes.pop("role", None)
    first = next((n for n in root.walk() if n.tag == "h1"), None) or next(
        (n for n in root.walk() if n.kind == "text"), None
    )
    return node_text(first)[:80] if first else "Untitled page"


def _tell_navs_apart(root: Node) -> None:
    """No two navigations have one name: the second is numbered."""
    taken: dict[str, int] = {}
    for nav in (n for n in root.walk() if n.tag == "nav"):
        name = nav.attributes.get("label", "Main")
        taken[name] = taken.get(name, 0) + 1
        if taken[name] > 1:
            nav.attributes["label"] = f"{name} {taken[name]}"


def _panel_heads(root: Node, reading: Reading) -> None:
    """A short text alone in the strip at a card's top is the card's heading."""
    base = reading.styles[body_style(reading)]
    for n in root.walk():
        if n.surface is None or n.tag not in ("div", "li", "section", "article") or len(n.children) < 2:
            continue
        strip, below = n.children[:2]
        texts = texts_in(strip)
        if piled(strip, below) and [t.style for t in texts_in(below)][:1] == [t.style for t in texts][:1]:
            continue  # the first of several rows
        if (
            strip.surface is not None
            and strip.tag in ("div", "a")
            and strip.rect.h <= PANEL_HEAD
            and strip.rect.h < 0.5 * n.rect.h
            and abs(strip.rect.x - n.rect.x) <= 4
            and abs(strip.rect.right - n.rect.right) <= 4
            and strip.rect.y - n.rect.y <= 4
            and 1 <= len(texts) <= 2
            and len(texts[0].lines) == 1
            and len(node_text(texts[0]).split()) <= 6
            and reading.styles[texts[0].style].size >= 0.95 * base.size
        ):
            if strip.tag == "a":
                strip.tag = "div"
                strip.attributes.pop("role", None)
                for d in strip.walk()[1:]:
                    d.tag = "p" if d.kind == "text" else d.tag
            texts[0].attributes["head"] = "1"


def _foot_heads(root: Node, reading: Reading) -> None:
    """The first text over a column of a footer that stands out from what is under it is the column's heading."""
    for foot in (n for n in root.walk() if n.tag == "footer"):
        for column in foot.walk():
            kids = [c for c in column.children if c.kind == "text"]
            if column.kind != "block" or len(kids) < 2 or len(kids) < len(column.children):
                continue
            first, rest = kids[0], [reading.styles[c.style] for c in kids[1:]]
            a = reading.styles[first.style]
            stands_out = (
                a.size > 1.04 * max(b.size for b in rest)
                or a.weight >= max(b.weight for b in rest) + 200
                or (a.uppercase and not any(b.uppercase for b in rest))
                or (node_text(first).isupper() and not any(node_text(c).isupper() for c in kids[1:]))
            )
            if stands_out and len(first.lines) == 1 and len(node_text(first).split()) <= 4:
                first.attributes["head"] = "1"
