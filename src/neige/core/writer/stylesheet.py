"""The stylesheet as data: classes with declarations, pooled so that what looks alike is written once, and printed in order."""

from __future__ import annotations

from dataclasses import dataclass, field

from neige.core.writer.tokens import rem

Declarations = tuple[tuple[str, str], ...]

RESET = """\
*,
*::before,
*::after {
  box-sizing: border-box;
}

body,
h1,
h2,
h3,
h4,
h5,
h6,
p,
ul,
ol,
dl,
dd,
pre,
figure,
blockquote {
  margin: 0;
}

ul,
ol {
  padding: 0;
  list-style: none;
}

pre,
code {
  font: inherit;
}

summary {
  list-style: none;
  cursor: pointer;
}

img {
  display: block;
  max-inline-size: 100%;
  block-size: auto;
}

hr {
  margin: 0;
  border: 0;
}

fieldset {
  min-inline-size: 0;
  margin: 0;
  padding: 0;
  border: 0;
}

legend {
  padding: 0;
}

button,
input,
select,
textarea {
  margin: 0;
  padding: 0;
  border: 0;
  background: none;
  color: inherit;
  font: inherit;
}

table {
  inline-size: 100%;
  border-spacing: 0;
  table-layout: fixed;
}

th,
td {
  padding: 0;
  font-weight: inherit;
  text-align: start;
}

a {
  color: inherit;
  text-decoration: none;
}
"""

SHORTHANDS = {
    *("padding", "margin", "border-radius", "gap"),
    *(f"{p}-{a}" for p in ("padding", "margin") for a in ("block", "inline")),
}
MEDIUM, NARROW = 1024.0, 768.0  # px: screens up to which columns are fewer, and up to which there is one
RESERVED = {"button"}  # classes that carry the conventions below, and nothing of one part's own
CONVENTIONS = """\
a:hover {
  text-decoration: underline;
}

.button:hover {
  filter: brightness(0.94);
  text-decoration: none;
}

:focus-visible {
  outline: 2px solid currentcolor;
  outline-offset: 2px;
}

@media (prefers-reduced-motion: reduce) {
  * {
    scroll-behavior: auto;
  }
}
"""


SMALL = """\
/* Small screens: words may break, and nothing is wider than its place; a table keeps its words whole and scrolls */
@media (width %s) {
  body {
    overflow-wrap: anywhere;
  }

  body * {
    min-inline-size: 0;
    max-inline-size: 100%%;
  }

  table {
    table-layout: auto;
    overflow-wrap: break-word;
  }
}
"""


@dataclass
class Sheet:
    """Classes by name in order of first use. `narrow` and `medium` hold what changes on small screens."""

    rules: dict[str, Declarations] = field(default_factory=dict)
    narrow: dict[str, Declarations] = field(default_factory=dict)
    medium: dict[str, Declarations] = field(default_factory=dict)
    raw: list[str] = field(default_factory=list)
    generated: set[str] = field(
        default_factory=set
    )  # classes whose declarations are for what they generate after their content
    _by_look: dict[tuple[str, Declarations, Declarations, Declarations, str], str] = field(
        default_factory=dict
    )

    def named(
        self,
        base: str,
        declarations: dict[str, str],
        narrow: dict[str, str] | None = None,
        medium: dict[str, str] | None = None,
        over: str = "",
    ) -> str:
        """The class that has these declarations, made from `base` if there is none yet; "" for no declarations.

        `over`: a class some of whose declarations they undo, so they must come after it."""
        look = tuple(declarations.items())
        small, middle = tuple((narrow or {}).items()), tuple((medium or {}).items())
        if not look and not small and not middle:
            return ""
        key = (
            base,
            look,
            small,
            middle,
            over,
        )  # a part's own class is named after it, whatever looks alike elsewhere
        if key in self._by_look:
            return self._by_look[key]
        name, n = base, 2
        while name in self.rules or name in RESERVED:
            name, n = f"{base}-{n}", n + 1
        self.rules[name] = look
        if small:
            self.narrow[name] = small
        if middle:
            self.medium[name] = middle
        self._by_look[key] = name
        return name

    def after(self, base: str, declarations: dict[str, str]) -> str:
        """The class that generates something with these declarations after its content."""
        name = self.named(base, {"content": '""', **declarations})
        self.generated.add(name)
        return name

    def text(self, classes: set[str], width: float) -> str:
        """All rules of classes in use, for a page seen at a width in px: what is for smaller screens begins below it."""
        out = [
            _rule(f".{n}::after" if n in self.generated else f".{n}", d)
            for n, d in self.rules.items()
            if n in classes and d
        ]
        out += self.raw
        for limit, rules in ((MEDIUM, self.medium), (NARROW, self.narrow)):
            query = up_to(limit, width)
            together: dict[Declarations, list[str]] = {}
            for n, d in rules.items():
                if n in classes:
                    together.setdefault(d, []).append(f".{n}")
            inner = [_rule(",\n  ".join(names), d, "  ") for d, names in together.items()]
            if inner:
                out.append(f"@media (width {query}) {{\n" + "\n".join(inner) + "}\n")
        return "\n".join(out)


def up_to(limit: float, width: float) -> str:
    """The range of widths up to a limit, or below that of the page as it was seen (px)."""
    return f"<= {rem(limit)}" if limit < width else f"< {rem(width)}"


def _rule(selector: str, declarations: Declarations, pad: str = "") -> str:
    lines = "".join(f"{pad}  {k}: {_shortest(k, v)};\n" for k, v in _together(declarations))
    return f"{pad}{selector} {{\n{lines}{pad}}}\n"


def _together(declarations: Declarations) -> Declarations:
    """Gaps of rows and columns in one declaration, if both are there."""
    found = dict(declarations)
    for prefix in ("margin", "padding"):
        for axis in ("block", "inline"):
            start, end = found.get(f"{prefix}-{axis}-start"), found.get(f"{prefix}-{axis}-end")
            if start is not None and end is not None:
                both = {f"{prefix}-{axis}": f"{start} {end}"}
                del found[f"{prefix}-{axis}-end"]
                found = {
                    n: v
                    for k, w in found.items()
                    for n, v in (both if k == f"{prefix}-{axis}-start" else {k: w}).items()
                }
    return tuple(found.items())


def _shortest(name: str, value: str) -> str:
    """A shorthand without the values that repeat its others."""
    if name not in SHORTHANDS or "(" in value or "/" in value:
        return value
    v = value.split()
    if len(v) == 4 and v[3] == v[1]:
        v.pop()
    if len(v) == 3 and v[2] == v[0]:
        v.pop()
    if len(v) == 2 and v[1] == v[0]:
        v.pop()
    return " ".join(v)


def rule(selector: str, declarations: dict[str, str]) -> str:
    return _rule(selector, tuple(declarations.items()))
