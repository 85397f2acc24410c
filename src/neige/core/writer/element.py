"""A small HTML tree and its serialiser, laid out as the common formatters do. All text is escaped here and only here."""

from __future__ import annotations

from dataclasses import dataclass, field
from html import escape

VOID = {"img", "input", "hr", "br", "link", "meta", "col"}
INLINE = {"a", "strong", "em", "code", "span", "b", "time", "small"}
WIDTH = 100  # columns; longer lines of text are wrapped


@dataclass
class Element:
    """`children` are elements or text; `node` is the outline node it stands for (-1: none)."""

    tag: str
    attributes: dict[str, str] = field(default_factory=dict)
    children: list[Element | str] = field(default_factory=list)
    node: int = -1

    def elements(self) -> list[Element]:
        return [c for c in self.children if isinstance(c, Element)]


def paths_of(body: Element) -> dict[int, tuple[int, ...]]:
    """For each outline node its element as child indices from `body`."""
    out: dict[int, tuple[int, ...]] = {}

    def visit(e: Element, path: tuple[int, ...]) -> None:
        if e.node >= 0 and e.node not in out:
            out[e.node] = path
        for i, c in enumerate(e.elements()):
            visit(c, (*path, i))

    visit(body, ())
    return out


def open_tag(e: Element) -> str:
    parts = [e.tag]
    for k, v in e.attributes.items():
        parts.append(k if v == "" and k not in ("alt", "value") else f'{k}="{escape(v)}"')
    return "<" + " ".join(parts) + (" />" if e.tag in VOID else ">")


def _flat(e: Element) -> str:
    inner = "".join(escape(c, quote=False) if isinstance(c, str) else _flat(c) for c in e.children)
    return open_tag(e) + ("" if e.tag in VOID else f"{inner}</{e.tag}>")


def _is_text(e: Element) -> bool:
    return all(isinstance(c, str) or (c.tag in INLINE and _is_text(c)) or c.tag == "br" for c in e.children)


def serialise(e: Element, indent: int = 0) -> str:
    """The element on lines of its own, children indented by two spaces; text is wrapped where a space already is."""
    pad = "  " * indent
    if e.tag in VOID:
        return pad + open_tag(e) + "\n"
    flat = _flat(e)
    if _is_text(e) and len(pad) + len(flat) <= WIDTH:
        return f"{pad}{flat}\n"
    if _is_text(e) and any(isinstance(c, str) for c in e.children):
        inner = "".join(escape(c, quote=False) if isinstance(c, str) else _flat(c) for c in e.children)
        return f"{pad}{open_tag(e)}\n{_wrapped(inner, indent + 1)}{pad}</{e.tag}>\n"
    if not e.children:
        return f"{pad}{flat}\n"
    out = f"{pad}{open_tag(e)}\n"
    for c in e.children:
        out += (
            serialise(c, indent + 1)
            if isinstance(c, Element)
            else _wrapped(escape(c, quote=False), indent + 1)
        )
    return f"{out}{pad}</{e.tag}>\n"


def _wrapped(text: str, indent: int) -> str:
    pad, lines, line = "  " * indent, [], ""
    depth = 0
    for word in text.split(" "):
        # a space inside a tag is no place to break: attributes stay on one line
        if line and depth == 0 and len(pad) + len(line) + 1 + len(word) > WIDTH:
            lines.append(line)
            line = word
        else:
            line = f"{line} {word}" if line else word
        depth += word.count("<") - word.count(">")
    lines.append(line)
    return "".join(f"{pad}{t}\n" for t in lines)
