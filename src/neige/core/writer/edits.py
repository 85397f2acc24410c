"""Edits of the code by hand, kept as pins: what changed is found by hunks, and put into every later page again.

A hunk is the changed lines with a few unchanged ones around them, so that it finds its place after the page has been written anew.
"""

from __future__ import annotations

import difflib
from collections.abc import Sequence
from dataclasses import replace

from neige.core.model import Page, Pin, Rect

AROUND = 2  # unchanged lines on both sides of a change
NOWHERE = Rect(0, 0, 0, 0)


def hunks(name: str, before: str, after: str) -> list[Pin]:
    """The pins that make `after` of `before`, the text of a page's file, from top to bottom."""
    old, new = before.splitlines(keepends=True), after.splitlines(keepends=True)
    # what both begin and end with needs no matching, but for the lines around
    skip = max(0, _alike(old, new) - AROUND)
    old, new = old[skip:], new[skip:]
    end = max(0, _alike(old[::-1], new[::-1]) - AROUND)
    old, new = old[: len(old) - end], new[: len(new) - end]
    matcher = difflib.SequenceMatcher(None, old, new, autojunk=False)
    out = []
    for group in matcher.get_grouped_opcodes(AROUND):
        (a, b), (c, d) = (group[0][1], group[-1][2]), (group[0][3], group[-1][4])
        out.append(
            Pin(
                "code",
                NOWHERE,
                "".join(old[a:b]) or "\n",
                "".join(new[c:d]),
                name=name,
                x=float(skip + a + 1),
            )
        )
    return out


def _alike(a: Sequence[str], b: Sequence[str]) -> int:
    """How many lines two texts both begin with."""
    return next((i for i, (x, y) in enumerate(zip(a, b)) if x != y), min(len(a), len(b)))


def with_edits(pins: Sequence[Pin], new: Sequence[Pin]) -> list[Pin]:
    """The pins with new edits: one that changes what another wrote, or the lines that one was about before its page was there,
    takes its place, and none is left where that undoes it."""
    out = list(pins)
    for pin in new:
        at = next((i for i in range(len(out)) if _replaces(pin, out[i], out[i + 1 :])), None)
        if at is None:
            out.append(pin)
        elif out[at].text == pin.to:
            out.pop(at)
        else:
            out[at] = replace(out[at], to=pin.to)
    return out


def _replaces(pin: Pin, old: Pin, since: Sequence[Pin]) -> bool:
    """Does an edit change the very lines that an older one wrote or changed, and none of those `since` then count on them?"""
    if (old.kind, old.name, old.x) != (pin.kind, pin.name, pin.x) or pin.text not in (old.to, old.text):
        return False
    end = old.x + old.to.count("\n")
    others = [p for p in since if p.kind == "code" and p.name == old.name]
    return all(
        p.text.count("\n") == p.to.count("\n") and (p.x >= end or p.x + p.to.count("\n") <= old.x)
        for p in others
    )


def apply_edits(page: Page, pins: Sequence[Pin]) -> Page:
    """The page with the edits put in, in their order; those that find no place are named in `refused`."""
    texts = {"index.html": page.html, "styles.css": page.css}
    refused = []
    for pin in pins:
        if pin.kind != "code":
            continue
        new = _put(texts[pin.name], pin)
        if new is None:
            refused.append(f"{pin}: the lines it changes are no longer written that way")
        else:
            texts[pin.name] = new
    return replace(page, html=texts["index.html"], css=texts["styles.css"], refused=tuple(refused))


def _put(text: str, pin: Pin) -> str | None:
    """`text` with one edit in it, at the place nearest to where it was made; None if there is none."""
    at = _starts(text, pin.text)
    if not at:
        old, new = _bare(pin)
        at = _starts(text, old) if old.strip() else []
        if len(at) != 1:  # without the lines around it, it must be unmistakable
            return None
        return text[: at[0]] + new + text[at[0] + len(old) :]
    best = min(at, key=lambda i: abs(text.count("\n", 0, i) + 1 - pin.x))
    return text[:best] + pin.to + text[best + len(pin.text) :]


def _starts(text: str, part: str) -> list[int]:
    """Where `part` begins in `text`, at beginnings of lines."""
    out, i = [], text.find(part)
    while i >= 0:
        if i == 0 or text[i - 1] == "\n":
            out.append(i)
        i = text.find(part, i + 1)
    return out


def _bare(pin: Pin) -> tuple[str, str]:
    """The changed lines alone."""
    old, new = pin.text.splitlines(keepends=True), pin.to.splitlines(keepends=True)
    while old and new and old[0] == new[0]:
        old, new = old[1:], new[1:]
    while old and new and old[-1] == new[-1]:
        old, new = old[:-1], new[:-1]
    return "".join(old), "".join(new)
