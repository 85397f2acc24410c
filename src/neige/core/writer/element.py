"""A small HTML tree and its serialiser, laid out as the common formatters do. All text is escaped here and only here."""

from __future__ import annotations

from dataclasses import dataclass, field
from html import escape

from neige.core.model.page import Written

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


def serialise(e: Element, indent: int = 0, written: dict[int, Written] | None = None, line: int = 1) -> str:
    """The element on lines of its own, children indented by two spaces; text is wrapped where a space already is.

    Notes in `written` what became of each outline node, if the first line of the output is line number `line`.
    """
    pad = "  " * indent
    out, open_lines = "", line
    flat = "" if e.tag in VOID else _flat(e)
    leaf = e.tag in VOID or not e.children or _is_text(e)
    if e.tag in VOID:
        out = f"{pad}{open_tag(e)}\n"
    elif e.tag in ("pre", "textarea"):  # every space in it counts
        leaf, out = True, f"{pad}{flat}\n"
    elif _is_text(e) and any(isinstance(c, str) for c in e.children) and len(pad) + len(flat) > WIDTH:
        inner = "".join(escape(c, quote=False) if isinstance(c, str) else _flat(c) for c in e.children)
        out = f"{pad}{open_tag(e)}\n{_wrapped(inner, indent + 1)}{pad}</{e.tag}>\n"
    elif not e.children or (_is_text(e) and len(pad) + len(flat) <= WIDTH):
        out = f"{pad}{flat}\n"
    else:
        leaf = False
        parts = [f"{pad}{open_tag(e)}\n"]
        open_lines += 1
        for c in e.children:
            text = (
                serialise(c, indent + 1, written, open_lines)
                if isinstance(c, Element)
                else _wrapped(escape(c, quote=False), indent + 1)
            )
            parts.append(text)
            open_lines += text.count("\n")
        out = f"{''.join(parts)}{pad}</{e.tag}>\n"
    if written is not None:
        lines = (line, line + out.count("\n") - 1)
        for inside in _with_inner(e) if leaf else [e]:
            if inside.node >= 0 and inside.node not in written:
                classes = tuple(inside.attributes.get("class", "").split())
                written[inside.node] = Written(inside.tag, classes, lines)
    return out


def _with_inner(e: Element) -> list[Element]:
    return [e, *(d for c in e.elements() for d in _with_inner(c))]


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
