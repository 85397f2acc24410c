"""What differs between two style sheets of a page, value by value, in words."""

from __future__ import annotations

import re
from collections.abc import Iterator

RULE = re.compile(
    r"^([^\s@}/][^{}]*?) \{\n((?:  [^\n]*;\n)+)\}", re.M
)  # what is written for screens of every size
MOST = 40  # values that are told


def changed_values(before: str, after: str) -> tuple[str, ...]:
    """“selector property: was → is” of each declaration that differs, in the order of the later sheet; what is only in one of them
    has “nothing” in the other. At most MOST, and how many more there are. Then the rules that are needed no more: what they
    were about shares others."""
    old, new = dict(_declarations(before)), dict(_declarations(after))
    needed = {selector for selector, _ in new}
    gone = list(dict.fromkeys(selector for selector, _ in old if selector not in needed))
    out = [
        f"{selector} {name}: {old.get((selector, name), 'nothing')} → {new.get((selector, name), 'nothing')}"
        for selector, name in dict.fromkeys([*new, *old])
        if selector in needed and old.get((selector, name)) != new.get((selector, name))
    ]
    more = [f"and {len(out) - MOST} more"] if len(out) > MOST else []
    return (*out[:MOST], *more, *([f"no longer needed: {', '.join(gone)}"] if gone else []))


def _declarations(css: str) -> Iterator[tuple[tuple[str, str], str]]:
    for rule in RULE.finditer(css):
        for line in rule[2].splitlines():
            name, _, value = line.strip().rstrip(";").partition(": ")
            yield (" ".join(rule[1].split()), name), value
