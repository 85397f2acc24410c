"""What a reviewer would say about an outline: findings about structure, names and contrast (WCAG 2.2, HTML)."""

from __future__ import annotations

from collections import Counter

from neige.core.model import Finding, Node, Outline, Reading
from neige.core.outline.words import node_text
from neige.core.reading.colour import contrast

TOLD_APART = 3.0  # contrast between a link's ink and its text's
LANDMARKS = ("header", "nav", "main", "aside", "footer")
SECTIONS = ("section", "article")


def check(outline: Outline, reading: Reading) -> tuple[Finding, ...]:
    """Findings, the worst first; `weight` is 3 for what shuts people out, 2 for what confuses, 1 for what is untidy."""
    nodes = outline.root.walk(document=True)
    found = [*_headings(nodes), *_landmarks(nodes), *_controls(nodes, reading), *_contrast(nodes, reading)]
    found += _links(nodes, reading)
    found += [Finding("pin", text, outline.root.rect, 2.0) for text in outline.unmet]
    return tuple(sorted(found, key=lambda f: (-f.weight, f.rect.y, f.rect.x)))


def _quoted(node: Node) -> str:
    text = node_text(node)
    return f"“{text[:50]}”" if text else f"the {node.tag} at {node.rect.x:.0f}, {node.rect.y:.0f}"


def _headings(nodes: list[Node]) -> list[Finding]:
    out: list[Finding] = []
    headings = [n for n in nodes if len(n.tag) == 2 and n.tag[0] == "h" and n.tag[1].isdigit()]
    tops = [n for n in headings if n.tag == "h1"]
    if not tops:
        out.append(Finding("heading", "The page has no h1.", nodes[0].rect, 2.0, nodes[0].id))
    out += [Finding("heading", f"A second h1: {_quoted(n)}.", n.rect, 2.0, n.id) for n in tops[1:]]
    last = 0
    for n in headings:
        level = int(n.tag[1])
        if last and level > last + 1:
            out.append(
                Finding(
                    "heading",
                    f"{_quoted(n)} is an h{level} after an h{last}: a level is skipped.",
                    n.rect,
                    2.0,
                    n.id,
                )
            )
        last = level
    for n in nodes:
        if n.tag in SECTIONS and not any(h in headings for h in n.walk()):
            out.append(Finding("section", f"A {n.tag} without a heading: {_quoted(n)}.", n.rect, 1.0, n.id))
    return out


def _landmarks(nodes: list[Node]) -> list[Finding]:
    out: list[Finding] = []
    if not any(n.tag == "main" for n in nodes):
        out.append(Finding("landmark", "The page has no main part.", nodes[0].rect, 2.0, nodes[0].id))
    counts = Counter((n.tag, n.attributes.get("label", "")) for n in nodes if n.tag in LANDMARKS)
    for n in nodes:
        if n.tag in ("nav", "aside") and counts[(n.tag, n.attributes.get("label", ""))] > 1:
            out.append(
                Finding(
                    "landmark", f"Several {n.tag} parts have the same label: {_quoted(n)}.", n.rect, 2.0, n.id
                )
            )
    return out


def _controls(nodes: list[Node], reading: Reading) -> list[Finding]:
    out: list[Finding] = []
    for n in nodes:
        if n.kind == "field" and not n.attributes.get("name"):
            kind = n.attributes.get("type", "text")
            told = n.attributes.get("placeholder")
            why = f"only its placeholder “{told[:40]}” names it" if told else "nothing names it"
            out.append(
                Finding("label", f"A {kind} field has no label: {why}.", n.rect, 1.0 if told else 3.0, n.id)
            )
        if n.kind == "image" and reading.cutouts[n.cutout].kind == "image":
            cutout = reading.cutouts[n.cutout]
            if not (cutout.alt or cutout.text or n.attributes.get("alt")):
                out.append(
                    Finding(
                        "alt",
                        f"A picture of {n.rect.w:.0f} × {n.rect.h:.0f} px has no description.",
                        n.rect,
                        1.0,
                        n.id,
                    )
                )
        named = node_text(n) or any(c.kind == "image" and reading.cutouts[c.cutout].alt for c in n.walk())
        if n.tag in ("a", "button") and n.kind != "text" and not named:
            out.append(
                Finding("label", f"A {'link' if n.tag == 'a' else 'button'} has no words.", n.rect, 3.0, n.id)
            )
    return out


def _links(nodes: list[Node], reading: Reading) -> list[Finding]:
    """Links in a text that nothing but their ink tells from it, and that by too little (WCAG 1.4.1, F73)."""
    for n in nodes:
        ink = reading.styles[n.style].colour if n.kind == "text" and n.tag not in ("a", "button") else ""
        for r in n.runs if ink else ():
            s = reading.styles[r.style]
            apart = contrast(s.colour, ink)
            if (
                r.tag == "a"
                and not s.underline
                and s.weight < reading.styles[n.style].weight + 200
                and apart < TOLD_APART
            ):
                text = f"Links in the text differ by colour alone, {apart:.2f}:1; {TOLD_APART:g}:1 is needed: “{r.text[:40]}”."
                return [Finding("contrast", text, n.rect, 2.0, n.id)]
    return []


def _contrast(nodes: list[Node], reading: Reading) -> list[Finding]:
    poor = {(c.ink, c.ground): c for c in reading.contrasts if c.ratio < c.needed}
    out: list[Finding] = []
    told: set[tuple[str, str]] = set()
    for n in nodes:
        for i in n.lines if n.kind == "text" else ():
            line = reading.lines[i]
            pair = (reading.styles[line.style].colour, line.ground)
            if pair in poor and pair not in told:
                told.add(pair)
                c = poor[pair]
                lines = f", {c.lines} lines" if c.lines > 1 else ""
                out.append(
                    Finding(
                        "contrast",
                        f"{c.ink} on {c.ground} has {c.ratio:.2f}:1, {c.needed:g}:1 is needed{lines}: {_quoted(n)}.",
                        n.rect,
                        3.0,
                        n.id,
                    )
                )
    return out
