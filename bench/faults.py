"""Known faults put into finished pages: is each the first or second finding, with its cause? `python -m bench.faults [N]`."""

from __future__ import annotations

import itertools
import random
import re
import sys
from collections import defaultdict
from collections.abc import Callable, Sequence
from dataclasses import replace
from functools import cache

from neige.browser import draw_page
from neige.core.model import Page, Proof
from neige.core.pipeline import Build, build
from neige.core.proof import prove
from neige.demo.load import demo_pictures

PAGES = ("firnwatch-landing.png", "depth-report.png", "bulletin-article.png")
Fault = Callable[[Page, random.Random], Page | None]


@cache
def finished(name: str) -> Build:
    content = next(c for n, _, c in demo_pictures() if n == name)
    return build(content, name, draw_page)


def _rule(page: Page, rng: random.Random, declaration: str, new: Callable[[str], str]) -> Page | None:
    """One declaration of a class that is in use, outside the queries for small screens, changed."""
    css = page.css.split("@media", 1)[0]
    found = [
        m
        for m in re.finditer(rf"^\.([\w-]+) \{{\n(?:  [^\n]*\n)*?  {declaration}: ([^;]+);", css, re.M)
        if f'"{m[1]}"' in page.html or f" {m[1]}" in page.html
    ]
    if not found:
        return None
    m = rng.choice(found)
    return replace(page, css=page.css[: m.start(2)] + new(m[2]) + page.css[m.end(2) :])


def _more(by: float) -> Callable[[str], str]:
    return lambda value: f"calc({value} + {by}px)"


def _texts(page: Page) -> list[re.Match[str]]:
    """Elements of one line that hold a text of their own."""
    return list(re.finditer(r"^ *<(p|h[1-6])( class=\"[^\"]*\")?>([^<\n]{6,60})</\1>\n", page.html, re.M))


def gap(page: Page, rng: random.Random) -> Page | None:
    return _rule(page, rng, "margin-block-start", _more(rng.choice((-7, 6, 10, 16, 24))))


def colour(page: Page, rng: random.Random) -> Page | None:
    return _rule(page, rng, "color", lambda _: rng.choice(("#b00020", "#008000", "#7a1fa2")))


def size(page: Page, rng: random.Random) -> Page | None:
    return _rule(page, rng, "font-size", lambda v: f"calc({v} * {rng.choice((0.85, 1.12, 1.25))})")


def weight(page: Page, rng: random.Random) -> Page | None:
    return _rule(page, rng, "font-weight", lambda v: "400" if int(v) >= 600 else "700")


def fill(page: Page, rng: random.Random) -> Page | None:
    return _rule(page, rng, "background", lambda _: rng.choice(("#ffd54f", "#c5e1a5", "#b39ddb")))


def spacing(page: Page, rng: random.Random) -> Page | None:
    return _rule(page, rng, "line-height", lambda v: f"{v};\n  letter-spacing: 0.06em")


def moved(page: Page, rng: random.Random) -> Page | None:
    return _rule(page, rng, "margin-inline-start", _more(rng.choice((6, 12, 20))))


def word(page: Page, rng: random.Random) -> Page | None:
    m = rng.choice(_texts(page))
    words = m[3].split()
    at = rng.randrange(len(words))
    words[at] = words[at][:-1] + ("x" if words[at][-1] != "x" else "z")
    return replace(page, html=page.html[: m.start(3)] + " ".join(words) + page.html[m.end(3) :])


def missing(page: Page, rng: random.Random) -> Page | None:
    m = rng.choice(_texts(page))
    return replace(page, html=page.html[: m.start()] + page.html[m.end() :])


def extra(page: Page, rng: random.Random) -> Page | None:
    m = rng.choice(_texts(page))
    return replace(
        page, html=page.html[: m.start()] + "<p>Quarterly avalanche seminar</p>\n" + page.html[m.start() :]
    )


def order(page: Page, rng: random.Random) -> Page | None:
    """Two texts that follow one another, swapped."""
    texts = _texts(page)
    pairs = [(a, b) for a, b in itertools.pairwise(texts) if a.end() == b.start() and a[3] != b[3]]
    if not pairs:
        return None
    a, b = rng.choice(pairs)
    return replace(page, html=page.html[: a.start()] + b[0] + a[0] + page.html[b.end() :])


def radius(page: Page, rng: random.Random) -> Page | None:
    return _rule(page, rng, "border-radius", lambda v: "0" if not v.startswith(("0 ", "50%")) else "1.25rem")


def border(page: Page, rng: random.Random) -> Page | None:
    return _rule(page, rng, "border", lambda _: "4px solid #607d8b")


def shadow(page: Page, rng: random.Random) -> Page | None:
    return _rule(page, rng, "box-shadow", lambda _: "none")


def picture(page: Page, rng: random.Random) -> Page | None:
    """A picture's own address lost; it keeps its room."""
    found = [
        m
        for m in re.finditer(r'<img [^>]*width="(\d+)" height="(\d+)"[^>]*/>', page.html)
        if min(map(int, m.groups())) >= 40
    ]
    if not found:
        return None
    m = rng.choice(found)
    room = f'<div style="inline-size: {m[1]}px; block-size: {m[2]}px"></div>'
    return replace(page, html=page.html[: m.start()] + room + page.html[m.end() :])


# what is done, and the kinds of finding that name it
FAULTS: dict[str, tuple[Fault, tuple[str, ...]]] = {
    "gap": (gap, ("gap",)),
    "colour": (colour, ("colour",)),
    "size": (size, ("size",)),
    "weight": (weight, ("weight",)),
    "fill": (fill, ("fill",)),
    "spacing": (spacing, ("spacing",)),
    "moved": (moved, ("moved",)),
    "word": (word, ("word",)),
    "missing": (missing, ("missing",)),
    "extra": (extra, ("extra",)),
    "order": (order, ("order",)),
    "radius": (radius, ("radius",)),
    "border": (border, ("border", "resized")),
    "shadow": (shadow, ("shadow",)),
    "picture": (picture, ("picture",)),
}


def proof_of(made: Build, page: Page) -> Proof:
    return prove(made.reading, made.picture, draw_page(page, made.picture.width))


def inject(n: int, seed: int = 7, pages: Sequence[str] = PAGES) -> list[tuple[str, str, int, str]]:
    """(page, fault, place of the finding that names it: 0 if none, what is said first) for `n` faults, in turn."""
    rng = random.Random(seed)
    out: list[tuple[str, str, int, str]] = []
    names = list(FAULTS)
    i = 0
    while len(out) < n:
        name, fault = pages[(i // len(names)) % len(pages)], names[i % len(names)]
        i += 1
        made = finished(name)
        change, kinds = FAULTS[fault]
        page = change(made.page, rng)
        if page is None:
            continue
        proof = proof_of(made, page)
        if (
            not proof.findings
            and proof.position_px < 0.5
            and fault in ("moved", "gap", "colour", "fill", "weight", "radius")
        ):
            continue  # a rule that nothing on the page follows: no fault was made
        place = next((k for k, f in enumerate(proof.findings[:2], start=1) if f.kind in kinds), 0)
        out.append((name, fault, place, proof.findings[0].text if proof.findings else "nothing"))
    return out


def main() -> None:
    n = int(sys.argv[1]) if len(sys.argv) > 1 else 60
    for name in PAGES:
        print(f"{name}: {len(finished(name).proof.findings)} findings untouched")
    table: dict[str, list[int]] = defaultdict(list)
    for name, fault, place, text in inject(n):
        table[fault].append(place)
        if not place:
            print(f"  {name}: {fault} is reported as: {text}")
    print("\n| fault | injected | first | second | otherwise |\n| --- | --- | --- | --- | --- |")
    for fault, places in table.items():
        print(f"| {fault} | {len(places)} | {places.count(1)} | {places.count(2)} | {places.count(0)} |")
    good = sum(1 for p in table.values() for k in p if k)
    print(f"| all | {sum(map(len, table.values()))} | | {good} first or second | |")


if __name__ == "__main__":
    main()
