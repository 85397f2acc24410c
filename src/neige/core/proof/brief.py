"""The page's brief: palette, type, grid, spacing, sections, components, states and open questions, as Markdown and HTML."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass
from html import escape

from neige.core.model import Finding, Page, Part, Proof, Reading
from neige.core.proof.report import STYLE, rows

LARGE_ENOUGH = 0.002  # of the page's area: a smaller colour is listed only if text is set in it
SURE = 0.6  # confidence below which a line is asked about
MOST = 20  # entries of a list
SECTION_TAGS = ("header", "nav", "main", "section", "article", "aside", "form", "footer")


@dataclass(frozen=True)
class Table:
    head: tuple[str, ...]
    rows: tuple[tuple[str, ...], ...]


@dataclass(frozen=True)
class Chapter:
    """A heading with a paragraph, a table or a list; what is empty is left out."""

    title: str
    text: str = ""
    table: Table | None = None
    entries: tuple[str, ...] = ()


def brief(
    title: str, reading: Reading, page: Page, parts: Sequence[Part], proof: Proof, checks: Sequence[Finding]
) -> tuple[str, str]:
    """(Markdown, HTML) of a page's brief. The same page gives the same bytes."""
    chapters = (
        _page(reading, proof),
        _palette(reading, page),
        _contrast(reading),
        _type(reading),
        _grid(reading),
        _spacing(reading),
        _sections(parts),
        _components(parts),
        _pictures(reading, page),
        _states(page),
        _questions(reading, proof, checks),
    )
    told = [c for c in chapters if c.text or c.entries or (c.table and c.table.rows)]
    return _markdown(title, told), _html(title, told)


def _page(reading: Reading, proof: Proof) -> Chapter:
    size = f"{reading.width:g} × {reading.height:g} px, read from a {reading.scale}x picture."
    return Chapter("The page", size, Table(("figure", "value"), tuple(rows(proof))))


def _palette(reading: Reading, page: Page) -> Chapter:
    tokens = {
        _full(colour): f"--{name}"
        for name, colour in re.findall(r"--([\w-]+):\s*(#[0-9a-f]{3,6});", page.css)
    }
    table = tuple(
        (tokens.get(p.colour, ""), p.colour, p.role, f"{100 * p.share:.1f} %")
        for p in reading.palette
        if p.share >= LARGE_ENOUGH or p.role == "text"
    )
    return Chapter("Palette", table=Table(("token", "colour", "role", "share of the area"), table))


def _full(colour: str) -> str:
    """#rrggbb of a colour that may be written as #rgb."""
    return colour if len(colour) == 7 else "#" + "".join(2 * c for c in colour[1:])


def _contrast(reading: Reading) -> Chapter:
    table = tuple(
        (c.ink, c.ground, f"{c.ratio:.2f}", f"{c.needed:g}", "yes" if c.ratio >= c.needed else "no")
        for c in reading.contrasts
    )
    return Chapter("Contrast", table=Table(("ink", "ground", "ratio", "needed for AA", "kept"), table))


def _type(reading: Reading) -> Chapter:
    scale = reading.type_scale
    text = f"Running text is {scale.base:g} px; sizes are {', '.join(f'{s:g}' for s in scale.sizes)} px"
    text += f", each about {scale.ratio:.3g} times the one before." if scale.ratio else "."
    table = tuple(
        (
            s.name, s.family + (" (a substitute)" if s.substitute else ""), f"{s.size:g} px", str(s.weight),
            " ".join(w for w, on in (("italic", s.italic), ("underlined", s.underline), ("capitals", s.uppercase)) if on),
            f"{s.tracking:+.2f} px" if abs(s.tracking) > 0.005 else "", s.colour, str(s.lines),
        )
        for s in reading.styles
    )  # fmt: skip
    return Chapter(
        "Type", text, Table(("use", "family", "size", "weight", "set", "tracking", "colour", "lines"), table)
    )


def _grid(reading: Reading) -> Chapter:
    g = reading.grid
    if g is None:
        return Chapter("Grid", "No column grid explains the page's edges.")
    return Chapter(
        "Grid",
        f"{g.columns} columns of {g.column:g} px, {g.gutter:g} px apart; margins {g.margin:g} px and {g.end:g} px, container "
        f"{g.width:g} px. {100 * g.explained:.0f} % of the edges stand on it; {len(g.bands)} parts run from side to side.",
    )


def _spacing(reading: Reading) -> Chapter:
    s = reading.spacing
    if not s.values:
        return Chapter("Spacing")
    left = f" Left over: {', '.join(f'{v:g} px' for v, _ in s.leftovers[:MOST])}." if s.leftovers else ""
    return Chapter(
        "Spacing",
        f"Distances are multiples of {s.step:g} px for {100 * s.explained:.0f} %.{left}",
        Table(("distance", "times used"), tuple((f"{v:g} px", str(n)) for v, n in s.values[:MOST])),
    )


def _sections(parts: Sequence[Part]) -> Chapter:
    table = tuple(
        (
            f"{'· ' * sum(parts_above.tag in SECTION_TAGS for parts_above in _above(p, parts))}{p.tag}", p.name,
            f"{p.rect.y:.0f} to {p.rect.bottom:.0f} px", p.text,
        )
        for p in parts
        if p.tag in SECTION_TAGS
    )  # fmt: skip
    return Chapter("Sections", table=Table(("landmark", "class", "where", "begins with"), table))


def _above(part: Part, parts: Sequence[Part]) -> list[Part]:
    by_id = {p.id: p for p in parts}
    out: list[Part] = []
    at = by_id.get(part.parent)
    while at is not None:
        out.append(at)
        at = by_id.get(at.parent)
    return out


def _components(parts: Sequence[Part]) -> Chapter:
    """What occurs more than once: containers and controls of one class."""
    counts = Counter(
        (p.tag, p.classes[-1]) for p in parts if p.classes and (p.kind != "text" or p.tag in ("a", "button"))
    )
    repeated = [(c, n) for c, n in counts.items() if n > 1][: 2 * MOST]
    return Chapter(
        "Components",
        table=Table(
            ("class", "element", "times"), tuple((f".{name}", tag, str(n)) for (tag, name), n in repeated)
        ),
    )


def _pictures(reading: Reading, page: Page) -> Chapter:
    kinds = Counter(c.kind for c in reading.cutouts)
    files = [a for a in page.assets if not a.path.endswith((".woff2", ".txt"))]
    if not kinds:
        return Chapter("Pictures")
    told = ", ".join(f"{n} {kind}{'s' if n != 1 else ''}" for kind, n in sorted(kinds.items()))
    return Chapter(
        "Pictures", f"{told}; {len(files)} files, {sum(len(a.content) for a in files) / 1024:.0f} kB."
    )


def _states(page: Page) -> Chapter:
    named = ("hover", "focus-visible", "disabled", "active")
    there = [f":{s}" for s in named if f":{s}" in page.css]
    quiet = [
        q
        for q, key in (("reduced motion", "prefers-reduced-motion"), ("print", "@media print"))
        if key in page.css
    ]
    text = f"Written by convention, not seen in the picture: {', '.join(there)}" if there else ""
    return Chapter(
        "States",
        f"{text}{'; ' if text and quiet else ''}{' and '.join(quiet)} looked after." if quiet else text,
    )


def _questions(reading: Reading, proof: Proof, checks: Sequence[Finding]) -> Chapter:
    doubtful = [line.text for line in reading.lines if line.confidence < SURE]
    out = [f"Does it say “{t[:70]}”? It could hardly be read." for t in doubtful[:MOST]]
    out += [
        f"Which family is “{s.name}” ({s.size:g} px)? {s.family} stands in for one that is not installed here."
        for s in reading.styles
        if s.substitute
    ][:MOST]
    out += [f"{len(reading.unread)} places look like text and could not be read."] if reading.unread else []
    out += [f.text for f in proof.findings[:MOST]]
    out += [f.text for f in checks[:MOST]]
    out.append(
        "How does it look on other widths? Only the one in the picture was seen; the others follow conventions."
    )
    return Chapter("Open questions", entries=tuple(dict.fromkeys(out)))


def _markdown(title: str, chapters: Sequence[Chapter]) -> str:
    def cell(text: str) -> str:
        return re.sub(r"([\\`*_<>|\[\]])", r"\\\1", " ".join(text.split()))

    out = [f"# Brief: {cell(title)}"]
    for c in chapters:
        out.append(f"\n## {c.title}\n")
        if c.text:
            out.append(cell(c.text))
        if c.table and c.table.rows:
            out += [
                *([""] if c.text else []),
                f"| {' | '.join(c.table.head)} |",
                f"|{' --- |' * len(c.table.head)}",
            ]
            out += [f"| {' | '.join(map(cell, r))} |" for r in c.table.rows]
        out += [f"- {cell(e)}" for e in c.entries]
    return "\n".join(out) + "\n"


def _html(title: str, chapters: Sequence[Chapter]) -> str:
    def cell(text: str) -> str:
        colour = re.fullmatch(r"#[0-9a-f]{6}", text)
        chip = (
            f"<svg width='14' height='14' aria-hidden='true'><rect width='14' height='14' fill='{text}'/></svg> "
            if colour
            else ""
        )
        return f"<td>{chip}{escape(text)}</td>"

    body = []
    for c in chapters:
        body.append(f"<h2>{escape(c.title)}</h2>")
        if c.text:
            body.append(f"<p>{escape(c.text)}</p>")
        if c.table and c.table.rows:
            head = "".join(f"<th scope='col'>{escape(h)}</th>" for h in c.table.head)
            lines = "".join(f"<tr>{''.join(map(cell, r))}</tr>" for r in c.table.rows)
            body.append(f"<table><thead><tr>{head}</tr></thead><tbody>{lines}</tbody></table>")
        if c.entries:
            body.append(f"<ul>{''.join(f'<li>{escape(e)}</li>' for e in c.entries)}</ul>")
    return (
        f"<!doctype html>\n<html lang='en'><head><meta charset='utf-8'><title>Brief: {escape(title)}</title>"
        f"<meta name='viewport' content='width=device-width, initial-scale=1'><style>{STYLE}</style></head><body>"
        f"<h1>Brief: {escape(title)}</h1>{''.join(body)}</body></html>\n"
    )
