"""Names that say what a thing is: from its role and its words, never from where it stands."""

from __future__ import annotations

import re
import unicodedata

from neige.core.model import Node, Reading

STOP = {
    "a",
    "an",
    "the",
    "of",
    "and",
    "or",
    "to",
    "in",
    "on",
    "for",
    "with",
    "your",
    "our",
    "we",
    "is",
    "are",
    "this",
    "that",
    "it",
    "you",
    "at",
    "by",
    "from",
    "as",
    "be",
}


def slug(text: str, words: int = 2) -> str:
    """At most `words` telling words of a text, lower case, ASCII, joined by hyphens; "" if none is left."""
    plain = unicodedata.normalize("NFKD", text).encode("ascii", "ignore").decode()
    found = [w for w in re.findall(r"[a-z]+", plain.lower()) if w not in STOP and len(w) > 1]
    return "-".join(w[:14] for w in found[:words])


def give_names(root: Node, reading: Reading) -> None:
    """Name every node: landmarks by their tag, sections by their heading, parts by their own first words or kind."""
    taken: dict[str, int] = {}

    def fresh(base: str) -> str:
        taken[base] = taken.get(base, 0) + 1
        return base if taken[base] == 1 else f"{base}-{taken[base]}"

    def visit(n: Node, parent: str, listed: bool = False) -> None:
        name = parent
        if n.tag == "body":
            name = "page"
        elif n.tag in ("header", "footer"):
            name = n.name = fresh(f"site-{n.tag}")
        elif n.tag == "main":
            name = n.name = "content"
        elif n.tag == "nav":
            name = n.name = fresh(
                "site-nav"
                if parent.startswith("site-header")
                or (parent == "page" and n.attributes.get("label") == "Main")
                else f"{parent}-nav"
                if parent != "page"
                else "sections"
            )
        elif n.tag in ("form", "search"):
            name = n.name = fresh((slug(_title(n)) or "entry") + "-form")
        elif n.attributes.get("role") == "button":
            n.name = "button"
        elif n.attributes.get("role") == "badge":
            n.name = "badge"
        elif n.kind == "field":
            n.name = "field"
        elif n.kind == "table":
            n.name = fresh((slug(_title(n), 1) or "data") + "-table")
        elif n.attributes.get("band") or n.tag == "section":
            said = slug(_title(n))  # bands without words share a class if they look alike
            name = n.name = fresh(said) if said else "band"
        elif listed and n.children:
            # entries of one list share one name: they are one component
            name = n.name = f"{parent}-{'card' if n.surface is not None else 'entry'}"
        elif n.surface is not None and n.children:
            name = n.name = (
                (slug(_title(n), 1) or parent) + "-card"
                if not parent.endswith("-card")
                else parent.removesuffix("-card") + "-panel"
            )
        elif n.attributes.get("list"):
            n.name = f"{parent}-list"
        elif n.kind in ("row", "grid"):
            n.name = f"{parent}-{'columns' if n.kind == 'grid' else 'row'}"
        elif n.kind == "image":
            n.name = "icon" if reading.cutouts[n.cutout].kind == "icon" else "picture"
        for c in n.children:
            visit(c, name or parent, bool(n.attributes.get("list")) or _alike(n.children))

    visit(root, "page")


def _alike(parts: list[Node]) -> bool:
    """Are two or more parts the same component: painted alike, or not at all, and equally wide?"""
    if len(parts) < 2 or not all(c.children and c.kind in ("block", "row", "grid") for c in parts):
        return False
    fills = {c.surface.fill.colour if c.surface else "" for c in parts}
    widths = [c.rect.w for c in parts]
    return len(fills) == 1 and max(widths) - min(widths) <= 0.1 * max(widths)


def _title(n: Node) -> str:
    """The words of the first heading under a node, or else its first text."""
    texts = [t for t in n.walk() if t.kind == "text"]
    first = next((t for t in texts if t.tag.startswith("h") and len(t.tag) == 2), texts[0] if texts else None)
    return " ".join(r.text for r in first.runs) if first else ""
