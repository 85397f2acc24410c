"""Font files for the page: catalogue faces cut down to the characters in use, with their licences."""

from __future__ import annotations

import io
import re
from functools import lru_cache
from importlib.resources import files

from fontTools import subset
from fontTools.ttLib import TTFont

from neige.core.model import Asset, TypeStyle
from neige.core.reading.type.catalogue import Face, catalogue, font_file

GENERIC = {
    "sans-serif": "sans-serif",
    "serif": "serif",
    "monospace": "monospace",
    "display": "sans-serif",
    "handwriting": "cursive",
}
BASIC = "".join(
    chr(c) for c in range(0x20, 0x7F)
)  # always in, so that a retyped word is still set in the face
SYSTEM_STACK = {
    "Liberation Sans": '"Liberation Sans", Arimo, Arial, Helvetica, sans-serif',
    "Liberation Serif": '"Liberation Serif", Tinos, "Times New Roman", serif',
    "Liberation Mono": '"Liberation Mono", Cousine, "Courier New", monospace',
    "DejaVu Sans": '"DejaVu Sans", Verdana, sans-serif',
    "DejaVu Serif": '"DejaVu Serif", Georgia, serif',
    "DejaVu Sans Mono": '"DejaVu Sans Mono", Menlo, monospace',
}


def face_of(style: TypeStyle) -> Face:
    return next(i.face for i in catalogue().instances if i.face.file == style.face)


def quoted(family: str) -> str:
    """A family's name as CSS has it: quoted unless it is one plain word."""
    return family if re.fullmatch(r"[A-Za-z]+", family) else f'"{family}"'


def stack(style: TypeStyle) -> str:
    """The font-family value of a style: the family, what is most like it elsewhere, the generic family."""
    own = f'{quoted(style.family)}, "{style.family} fallback", {GENERIC.get(style.category, "sans-serif")}'
    return SYSTEM_STACK.get(style.family) or own


def font_name(face: Face) -> str:
    return face.file.removesuffix(".ttf").lower().replace(" ", "-") + ".woff2"


def font_face(face: Face) -> str:
    """The @font-face rule; a face that many systems have is taken from there first."""
    weight = f"{face.weight_min:g} {face.weight_max:g}" if face.variable else f"{face.weight_min:g}"
    url = f'url("assets/fonts/{font_name(face)}") format("woff2")'
    source = (
        f"local({face.family!r}), {url}".replace("'", '"')
        if face.system and face.weight_min == 400 and not face.italic
        else url
    )
    lines = [f"font-family: {quoted(face.family)};", f"src: {source};", f"font-weight: {weight};"]
    if face.italic:
        lines.append("font-style: italic;")
    lines.append("font-display: swap;")
    return "@font-face {\n" + "".join(f"  {line}\n" for line in lines) + "}\n"


FALLBACKS = {  # the faces that screens have anyway, and the catalogue's own of the same widths
    "serif": ("Liberation Serif", ("Times New Roman", "Liberation Serif")),
    "monospace": ("Liberation Mono", ("Courier New", "Liberation Mono")),
}
SANS = ("Liberation Sans", ("Arial", "Liberation Sans"))
COMMON = "etaoinshrdlucmfwygpb ETAOINS"  # letters whose widths stand for a text's


def fallback_face(face: Face) -> str:
    """An @font-face that makes a common face take the room of a web font: nothing moves when the font comes in (or does not).

    `size-adjust` is the ratio of the two faces' mean widths; the vertical metrics are put back to the web font's.
    """
    cat = catalogue()
    family, locals_of = FALLBACKS.get(face.category, SANS)
    columns = [cat.places[c] for c in COMMON]

    def width(name: str) -> float:
        near = min(
            (i for i in cat.instances if i.face.family == name),
            key=lambda i: (i.face.italic, abs(i.weight - 400), i.row),
        )
        return float(cat.table[near.row, columns, 0].mean())

    ratio = width(face.family) / width(family)
    sources = ", ".join(f'local("{name}")' for name in locals_of)
    return (
        f'@font-face {{\n  font-family: "{face.family} fallback";\n  src: {sources};\n  size-adjust: {ratio:.2%};\n'
        f"  ascent-override: {face.ascent / ratio:.2%};\n  descent-override: {face.descent / ratio:.2%};\n"
        f"  line-gap-override: {face.line_gap / ratio:.2%};\n}}\n"
    )


@lru_cache(maxsize=64)
def _subset(file: str, characters: str) -> bytes:
    font = TTFont(io.BytesIO(font_file(file)), lazy=True)
    options = subset.Options(
        layout_features=["kern", "liga", "clig", "calt", "ccmp", "locl", "mark", "mkmk"],
        name_IDs=[0, 1, 2, 3, 4, 5, 6, 13, 14, 16, 17, 25],
        notdef_outline=True,
        hinting=True,
        drop_tables=["FFTM", "DSIG"],
    )
    cutter = subset.Subsetter(options)
    cutter.populate(text=characters)
    cutter.subset(font)
    font.flavor = "woff2"
    out = io.BytesIO()
    font["head"].modified = font["head"].created  # no clock in the output
    font.recalcTimestamp = False
    font.save(out)
    return out.getvalue()


def font_assets(faces: list[Face], texts: str | None) -> list[Asset]:
    """Files cut down to the characters of `texts`, and the licence of each family; None: the whole files."""
    if texts is None:
        return [Asset(f"assets/fonts/{font_name(f)}", font_file(f.file)) for f in faces]
    characters = "".join(sorted(set(texts) | set(BASIC)))
    out, seen = [], set()
    for face in faces:
        out.append(Asset(f"assets/fonts/{font_name(face)}", _subset(face.file, characters)))
        licence = files("neige").joinpath("fonts", face.licence_file)
        if face.family not in seen and licence.is_file():
            seen.add(face.family)
            slug = face.family.lower().replace(" ", "-")
            out.append(Asset(f"assets/fonts/{slug}-licence.txt", licence.read_bytes()))
    return out
