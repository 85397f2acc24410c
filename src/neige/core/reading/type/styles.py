"""From raw lines to lines with styles: families chosen for the page, lines of one style pooled, doubtful characters settled."""

from __future__ import annotations

from collections import defaultdict
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from neige.core.model import Line, Rect, TypeStyle, Word
from neige.core.model.geometry import edges
from neige.core.reading.colour import from_hex, oklab, to_hex
from neige.core.reading.text.lines import RawLine, RawWord
from neige.core.reading.type import fit as f
from neige.core.reading.type.catalogue import catalogue, draw, shape

SAME_COLOUR = 0.045  # OKLab distance under which two inks of one size are one colour
# What a recogniser confuses, as alternatives to draw and compare. Only whole-character swaps.
ALTERNATIVES = {
    "'": "’", '"': "“”", "-": "–−", "I": "l1", "l": "I1", "1": "lI", "|": "lI", "O": "0", "0": "O", "’": "'", "…": "", "–": "-", "•": "·", "·": "•",
    "`": "‘", "‘": "'", "!": "lI", "C": "€", "s": "S", "S": "s", "c": "C", "o": "O", "v": "V", "V": "v", "w": "W", "z": "Z", "x": "X", "p": "P",
}  # fmt: skip
RARE = 60  # letters: styles with fewer are checked against the common ones
ABSORB_MARGIN = 0.03  # correlation a piece may lose by taking a common style
SHORT = 3  # letters: no more can be an icon misread
UNLIKE_ONE = 0.84  # and for a single letter
UNLIKE = 0.66  # correlation with its own drawing below which a short line is not text
SETTLE_MARGIN = 0.012  # correlation by which an alternative must win


@dataclass
class Piece:
    """A stretch of one line in one ink: what gets a style. `cover` is measured ink in `box` (x0, y0, x1, y1 device px)."""

    line: int
    words: list[RawWord]
    edges: f.Edges
    colour: NDArray[np.float64]
    ground: NDArray[np.float64]
    underline: bool
    cover: NDArray[np.float32]
    origin: tuple[int, int]
    flat: bool
    fit: f.LineFit | None = None
    style: int = -1


def set_type(raw: list[RawLine], pixels: NDArray[np.uint8], scale: int) -> tuple[list[Line], list[TypeStyle]]:
    """Give every line its type. `pixels`: device px (h, w, 3). Lines keep their order."""
    if not raw:
        return [], []
    sigma = f.SIGMA * max(1.0, 0.75 * scale)
    pieces = [p for i, line in enumerate(raw) for p in _pieces(i, line, pixels)]
    cat = catalogue()
    fits = [f.fit_all(p.edges, sigma) for p in pieces]
    weights = [sum(len(w.text) for w in p.words) for p in pieces]
    families = f.page_families([c for c, n in zip((x[0] for x in fits), weights) if n >= 3] or [fits[0][0]])
    allowed = np.isin(cat.family_of, families)
    groups: dict[int, list[int]] = _cluster(pieces, fits, allowed)
    styles: list[TypeStyle] = []
    for members in groups.values():
        style = _decide(members, pieces, fits, families, sigma, scale)
        for m in members:
            pieces[m].style = len(styles)
        styles.append(style)
    _absorb(pieces, styles, scale)
    styles, renumber = _merge_styles(styles, {p.style for p in pieces})
    for p in pieces:
        p.style = renumber[p.style]
    rows = _rows(styles)
    for p in pieces:
        _settle(p, rows[p.style], styles[p.style], scale)
    return _lines(raw, pieces, styles, rows, scale), styles


def _pieces(number: int, line: RawLine, pixels: NDArray[np.uint8]) -> list[Piece]:
    """Cut a line where its ink changes colour or an underline starts or ends."""
    runs: list[list[RawWord]] = []
    for w in line.words:
        if (
            runs
            and w.underline == runs[-1][-1].underline
            and _near(w.colour, runs[-1][0].colour, len(w.text))
        ):
            runs[-1].append(w)
        else:
            runs.append([w])
    ground = np.array(line.ground)
    out = []
    for words in runs:
        part = RawLine(tuple(words), line.box, line.ground, line.flat, line.confidence)
        x0, x1 = int(min(w.box[0] for w in words)) - 2, int(np.ceil(max(w.box[2] for w in words))) + 2
        y0, y1 = int(line.box[1]) - 2, int(np.ceil(line.box[3])) + 2
        x0, y0 = max(0, x0), max(0, y0)
        crop = pixels[y0:y1, x0:x1].astype(np.float64)
        colour = np.median(np.array([w.colour for w in words]), axis=0)
        direction = colour - ground
        cover = np.clip(((crop - ground) @ direction) / max(1.0, float(direction @ direction)), 0, 1).astype(
            np.float32
        )
        out.append(
            Piece(
                number,
                words,
                f.edges_of(part),
                colour,
                ground,
                words[0].underline,
                cover,
                (x0, y0),
                line.flat,
            )
        )
    return out


def _near(a: tuple[float, float, float], b: tuple[float, float, float], n: int) -> bool:
    """Same ink? Thin and short words never reach their colour, so the tolerance is wide along the way to the ground."""
    d = oklab(np.array(a)) - oklab(np.array(b))
    return bool(abs(d[0]) < 0.16 and np.hypot(d[1], d[2]) < (0.07 if n > 2 else 0.1))


def _cluster(
    pieces: list[Piece], fits: list[tuple[NDArray, NDArray, NDArray]], allowed: NDArray[np.bool_]
) -> dict[int, list[int]]:
    """Group pieces that look set alike: size within 4 % in their best allowed instance, colour, underline, weight class."""
    cat = catalogue()
    keys = []
    for p, (chi, size, tracking) in zip(pieces, fits):
        best = int(np.where(allowed, chi, np.inf).argmin())
        p.fit = f.LineFit(best, float(size[best]), float(tracking[best]), float(chi[best]))
        stem = _stem(p)
        keys.append(
            (
                float(size[best]),
                stem,
                bool(abs(tracking[best]) > 0),
                cat.instances[best].face.italic,
                int(cat.family_of[best]),
            )
        )
    order = sorted(range(len(pieces)), key=lambda i: -sum(len(w.text) for w in pieces[i].words))
    groups: dict[int, list[int]] = {}
    for i in order:
        em, stem, tracked, italic, family = keys[i]
        length = sum(len(w.text) for w in pieces[i].words)
        for head in groups:
            s, t, k, it, fam = keys[head]
            loose = min(0.07, 0.016 + 0.9 / max(1.0, _width(pieces[i])))
            same_family = (
                fam == family
                or length <= 12
                or (pieces[i].fit or pieces[head].fit) is None
                or _fits_head(fits[i][0], keys[head], i, fits)
            )
            if (
                abs(em - s) <= loose * s + 0.05
                and abs(stem - t) <= 0.2 * max(stem, t) + 0.01
                and same_family
                and (tracked == k or length <= 6)
                and (italic == it or length <= 8)
                and pieces[i].underline == pieces[head].underline
                and np.linalg.norm(oklab(pieces[i].colour) - oklab(pieces[head].colour))
                < SAME_COLOUR * (1.0 if length > 8 else 1.6)
            ):
                groups[head].append(i)
                break
        else:
            groups[i] = [i]
    return groups


def _fits_head(chi: NDArray[np.float64], head: tuple, i: int, fits: list) -> bool:
    """True if the head's family explains this piece nearly as well as its own best."""
    of = catalogue().family_of
    return bool(chi[of == head[4]].min() <= chi.min() + 12)


def _width(p: Piece) -> float:
    return float(p.edges.right.max() - p.edges.left.min())


def _stem(p: Piece) -> float:
    """Ink per px of ink height and width: grows with weight; compared only within a size."""
    h = float(p.edges.bottom.max() - p.edges.top.min())
    w = float((p.edges.right - p.edges.left).sum())
    return float(p.cover.sum()) / max(h * w, 1.0)


def _decide(
    members: list[int], pieces: list[Piece], fits: list, families: list[int], sigma: float, scale: int
) -> TypeStyle:
    cat = catalogue()
    longest = sorted(members, key=lambda m: -sum(len(w.text) for w in pieces[m].words))[:5]
    total = np.sum([fits[m][0] for m in longest], axis=0)
    outside = ~np.isin(cat.family_of, families)
    ranked = np.argsort(total + outside * 12.0, kind="stable")
    short: list[int] = []
    per_family: dict[int, int] = defaultdict(int)
    best_family = int(cat.family_of[ranked[0]])
    for row in ranked:
        family = int(cat.family_of[row])
        if per_family[family] < (6 if family == best_family or family in families else 2):
            short.append(int(row))
            per_family[family] += 1
        if len(short) >= f.SHORTLIST:
            break
    # every weight of the leading face stays in the running: advances alone do not tell close weights apart
    lead = cat.instances[ranked[0]].face
    short += [i.row for i in cat.instances if i.face is lead and i.row not in short]
    scored = []
    for row in short:
        refits = [f.refit(pieces[m].edges, row, sigma) for m in longest]
        tracked = sum(abs(r.tracking) > 0.01 for r in refits) * 2 > len(refits)
        if not tracked:
            refits = [f.refit(pieces[m].edges, row, sigma, tracked=False) for m in longest]
        widths = np.array([pieces[m].edges.right.max() - pieces[m].edges.left.min() for m in longest])
        size = float(np.average([r.size for r in refits], weights=widths**2))
        tracking = float(np.average([r.tracking for r in refits], weights=widths**2)) if tracked else 0.0
        chi = sum(r.chi for r in refits) / max(
            1, sum(2 * len(r_e.texts) for r_e in (pieces[m].edges for m in longest))
        )
        corr = []
        for m in longest[: f.DRAWN_LINES]:
            p = pieces[m]
            if not p.flat:
                continue
            x = f.pen_positions(p.edges, row, size, tracking)
            base = f.baseline_of(p.edges, row, size)
            words = p.edges.texts[:14]
            limit = int(min(p.cover.shape[1], max(1, p.edges.right[len(words) - 1] - p.origin[0] + 2)))
            corr.append(
                f.correlation(
                    p.cover[:, :limit],
                    row,
                    words,
                    [v - p.origin[0] for v in x[: len(words)]],
                    size,
                    tracking,
                    base - p.origin[1],
                )
            )
        drawn = float(np.mean(corr)) if corr else 0.8
        prior = 0.0 if int(cat.family_of[row]) in families else 8.0
        common = 0.0 if cat.instances[row].weight in (400, 700) else 2.0
        edges_n = sum(2 * len(pieces[m].edges.texts) for m in longest)
        cost = (
            min(chi, CAP_MEAN) * min(edges_n, 40)
            + f.CORRELATION_WEIGHT * (1 - drawn)
            + prior
            + common
            + (f.TRACKING_COST if tracked else 0)
        )
        scored.append((cost, row, size, tracking, drawn, float(widths.max())))
    scored.sort(key=lambda s: (s[0], s[1]))
    _, row, size, tracking, drawn, widest = scored[0]
    instance = cat.instances[row]
    other = next(
        (
            cat.instances[s[1]].face.family
            for s in scored
            if cat.instances[s[1]].face.family != instance.face.family
        ),
        "",
    )
    css = _tidy_size(size / scale, widest / scale)
    track = round(tracking / scale, 3)
    colour = _ink_colour(members, pieces, row, css * scale, tracking)
    texts = [w.text for m in members for w in pieces[m].words]
    upper = all(t == t.upper() for t in texts) and sum(c.isalpha() for t in texts for c in t) > 5
    return TypeStyle(
        instance.face.family, instance.face.category, instance.face.file, css, instance.weight, instance.face.italic, track, to_hex(colour),
        float(round(instance.face.ascent * css)), float(round(instance.face.descent * css)), pieces[members[0]].underline, upper, round(drawn, 4), other, len(members),
    )  # fmt: skip


CAP_MEAN = 9.0  # mean chi² per edge beyond which fits are equally bad


def _tidy_size(size: float, widest: float) -> float:
    """Whole px if the evidence allows, else half, else tenths: the tolerance is what the widest line can tell."""
    tolerance = float(np.clip(size * 0.9 / max(widest, 1.0), 0.012, 0.45))
    for step in (1.0, 0.5, 0.2, 0.1):
        near = round(size / step) * step
        if abs(near - size) <= tolerance * (1.0 if step == 1 else 0.6):
            return round(near, 3)
    return round(size, 2)


def _ink_colour(
    members: list[int], pieces: list[Piece], row: int, size: float, tracking: float
) -> NDArray[np.float64]:
    """The ink's own colour, anti-aliasing undone: with the drawn coverage a known, pixel = ground + a (ink - ground) is regressed.

    Only pixels that are mostly ink count; where the drawing does not fit, the purest pixels' median stands.
    """
    colours, weights = [], []
    for m in sorted(members, key=lambda m: -sum(len(w.text) for w in pieces[m].words))[:6]:
        p = pieces[m]
        colours.append(p.colour)
        weights.append(1.0)
        if not p.flat:
            continue
        x = f.pen_positions(p.edges, row, size, tracking)
        base = f.baseline_of(p.edges, row, size)
        drawn = np.zeros_like(p.cover)
        for text, at in zip(p.edges.texts[:14], x):
            np.maximum(
                drawn,
                draw(row, text, size, tracking, at - p.origin[0], base - p.origin[1], p.cover.shape),
                out=drawn,
            )
        strong = (drawn > 0.6) & (p.cover > 0.3)
        if strong.sum() < 12:
            continue
        # cover is relative to p.colour: its slope against the drawn coverage says how much farther the ink goes
        ratio = p.cover[strong] / drawn[strong]
        slope = float(np.clip(np.quantile(ratio, 0.7), 0.9, 1.6)) if ratio.std() < 0.3 else 1.0
        colours[-1] = np.clip(p.ground + slope * (p.colour - p.ground), 0, 255)
        weights[-1] = float(strong.sum())
    chosen = np.array(colours)
    order = np.argsort(-np.array(weights))[:5]
    return np.median(chosen[order], axis=0)


def _likeness(p: Piece, row: int, style: TypeStyle, scale: int) -> tuple[float, float]:
    """(correlation, ink ratio) of a piece with its words drawn in a style; the ratio is measured to drawn ink."""
    size, tracking = style.size * scale, style.tracking * scale
    x = [v - p.origin[0] for v in f.pen_positions(p.edges, row, size, tracking)]
    base = f.baseline_of(p.edges, row, size) - p.origin[1]
    drawn = np.zeros_like(p.cover)
    for text, at in zip(p.edges.texts, x):
        np.maximum(drawn, draw(row, text, size, tracking, at, base, p.cover.shape), out=drawn)
    return f.correlation(p.cover, row, p.edges.texts, x, size, tracking, base), float(p.cover.sum()) / max(
        1.0, float(drawn.sum())
    )


def _absorb(pieces: list[Piece], styles: list[TypeStyle], scale: int) -> None:
    """Give pieces of rare styles to a common style that draws them as well: one word alone cannot tell weight and size apart.

    The common style must be close in size and ink, correlate nearly as well, and need about as much ink as in its own lines.
    """
    letters: dict[int, int] = defaultdict(int)
    members: dict[int, list[int]] = defaultdict(list)
    for i, p in enumerate(pieces):
        letters[p.style] += sum(len(w.text) for w in p.words)
        members[p.style].append(i)
    rows = _rows(styles)
    usual: dict[int, float] = {}
    for rare in sorted(letters, key=lambda k: (letters[k], k)):
        if letters[rare] >= RARE:
            continue
        a = styles[rare]
        flat = [pieces[m] for m in members[rare][:3] if pieces[m].flat]
        if not flat:
            continue
        own = float(np.mean([_likeness(p, rows[rare], a, scale)[0] for p in flat]))
        best, best_score = None, -1.0
        for k, b in enumerate(styles):
            if (
                k == rare
                or letters[k] < 2.5 * letters[rare]
                or abs(b.size - a.size) > 0.13 * a.size
                or a.underline != b.underline
            ):
                continue
            if np.linalg.norm(oklab(from_hex(a.colour)) - oklab(from_hex(b.colour))) > 0.1:
                continue
            found = [_likeness(p, rows[k], b, scale) for p in flat]
            if k not in usual:
                usual[k] = float(
                    np.median([_likeness(pieces[m], rows[k], b, scale)[1] for m in members[k][:6]])
                )
            score = float(np.mean([c for c, _ in found]))
            ratio = float(np.mean([r for _, r in found])) / max(usual[k], 1e-6)
            if score >= own - ABSORB_MARGIN and 0.87 <= ratio <= 1.15 and score > best_score:
                best, best_score = k, score
        if best is not None:
            for m in members[rare]:
                pieces[m].style = best
            members[best] += members[rare]
            letters[best] += letters[rare]
            letters[rare] = 0
            members[rare] = []


def _merge_styles(styles: list[TypeStyle], used: set[int]) -> tuple[list[TypeStyle], list[int]]:
    """Join styles in use that differ in nothing a reader could see; the one with more lines lends its values."""
    order = sorted(used, key=lambda i: (-styles[i].lines, i))
    kept: list[int] = []
    target = list(range(len(styles)))
    for i in order:
        a = styles[i]
        for k in kept:
            b = styles[k]
            alike = (
                a.family == b.family
                and a.weight == b.weight
                and a.italic == b.italic
                and a.underline == b.underline
            )
            if (
                alike
                and abs(a.size - b.size) <= 0.015 * b.size
                and abs(a.tracking - b.tracking) < 0.08
                and _close(a.colour, b.colour)
            ):
                target[i] = k
                break
        else:
            kept.append(i)
            target[i] = i
    place = {k: n for n, k in enumerate(kept)}
    from dataclasses import replace

    merged = [replace(styles[k], lines=sum(styles[i].lines for i in used if target[i] == k)) for k in kept]
    return merged, [place.get(target[i], 0) for i in range(len(styles))]


def _close(a: str, b: str) -> bool:
    return bool(np.linalg.norm(oklab(from_hex(a)) - oklab(from_hex(b))) < 0.03)


def _rows(styles: list[TypeStyle]) -> list[int]:
    cat = catalogue()
    return [
        next(i.row for i in cat.instances if i.face.file == s.face and i.weight == s.weight) for s in styles
    ]


def _settle(p: Piece, row: int, style: TypeStyle, scale: int) -> None:
    """Draw the alternatives of doubtful characters in the fitted font and keep what correlates best with the ink."""
    if not p.flat or style.fit < 0.6:
        return
    size, tracking = style.size * scale, style.tracking * scale
    base = f.baseline_of(p.edges, row, size) - p.origin[1]
    words = list(p.words)
    changed = False
    for n, word in enumerate(words):
        candidates = _candidates(word, p.words, n)
        if not candidates:
            continue
        x0, x1 = max(0, int(word.box[0]) - p.origin[0] - 2), int(np.ceil(word.box[2])) - p.origin[0] + 3
        cover = p.cover[:, x0:x1]
        scores = []
        for text in [word.text, *candidates]:
            shaped = shape(row, text, abs(tracking) > 0.01)
            if 0 in shaped.glyphs:
                scores.append(-1.0)
                continue
            width = shaped.advance * size + tracking * (len(text) - 1)
            e = f.Edges(
                (text,),
                np.array([word.box[0]]),
                np.array([word.box[2]]),
                np.array([word.box[1]]),
                np.array([word.box[3]]),
            )
            pen = float(f.pen_positions(e, row, size, tracking)[0]) - p.origin[0] - x0
            if abs(width - (word.box[2] - word.box[0])) > 0.9 * size:
                scores.append(-1.0)
                continue
            scores.append(f.correlation(cover, row, [text], [pen], size, tracking, base))
        best = int(np.argmax(scores))
        if best and scores[best] > scores[0] + SETTLE_MARGIN:
            words[n] = RawWord(candidates[best - 1], word.box, word.colour, word.confidence, word.underline)
            changed = True
    if changed:
        p.words = words
        p.edges = f.Edges(
            tuple(w.text for w in words), p.edges.left, p.edges.right, p.edges.top, p.edges.bottom
        )


def _candidates(word: RawWord, line: list[RawWord], n: int) -> list[str]:
    text = word.text
    out = []
    if "..." in text:
        out.append(text.replace("...", "…"))
    elif text.endswith(".."):
        out += [text[:-2] + "...", text[:-2] + "…"]
    if text.count('"') == 2 and text[0] == '"':
        out.append("“" + text[1:].replace('"', "”"))
    elif text.startswith('"'):
        out.append("“" + text[1:])
    elif '"' in text:
        out.append(text.replace('"', "”"))
    for i, c in enumerate(text):
        if c in "sSCcovVwzxp" and (word.confidence > 0.97 or len(text) > 3):
            continue
        if c in "lI1O0" and word.confidence > 0.995 and len(text) > 4 and not text.isupper():
            continue
        for other in ALTERNATIVES.get(c, ""):
            out.append(text[:i] + other + text[i + 1 :])
    return out[:8]


def _lines(
    raw: list[RawLine], pieces: list[Piece], styles: list[TypeStyle], rows: list[int], scale: int
) -> list[Line]:
    by_line: dict[int, list[Piece]] = defaultdict(list)
    for p in pieces:
        by_line[p.line].append(p)
    out = []
    for number, line in enumerate(raw):
        words: list[Word] = []
        weights: dict[int, float] = defaultdict(float)
        bases = []
        likeness = []
        for p in by_line[number]:
            style = styles[p.style]
            size, tracking = style.size * scale, style.tracking * scale
            pens = f.pen_positions(p.edges, rows[p.style], size, tracking)
            bases.append((f.baseline_of(p.edges, rows[p.style], size), sum(len(w.text) for w in p.words)))
            if p.flat:
                local = [v - p.origin[0] for v in pens]
                likeness.append(
                    f.correlation(
                        p.cover,
                        rows[p.style],
                        p.edges.texts,
                        local,
                        size,
                        tracking,
                        bases[-1][0] - p.origin[1],
                    )
                )
            for w, pen in zip(p.words, pens):
                advance = shape(rows[p.style], w.text, abs(tracking) > 0.01).advance * size + tracking * len(
                    w.text
                )
                x0, y0, x1, y1 = (v / scale for v in w.box)
                words.append(
                    Word(
                        w.text,
                        float(pen) / scale,
                        advance / scale,
                        edges(x0, y0, x1, y1),
                        p.style,
                        round(w.confidence, 3),
                    )
                )
                weights[p.style] += len(w.text)
        main = max(weights, key=lambda k: (weights[k], -k))
        base = round(sorted(bases, key=lambda b: -b[1])[0][0]) / scale
        style = styles[main]
        box = Rect(
            words[0].x,
            base - style.ascent,
            words[-1].x + words[-1].w - words[0].x,
            style.ascent + style.descent,
        )
        letters = sum(c.isalnum() for w in words for c in w.text)
        if likeness and letters <= SHORT and max(likeness) < (UNLIKE_ONE if letters <= 1 else UNLIKE):
            continue  # an icon that looked like letters to the recogniser: no font draws it so
        out.append(Line(tuple(words), box, base, main, to_hex(line.ground), round(line.confidence, 3)))
    return out


def drawn_cover(
    line: Line, styles: list[TypeStyle], scale: int, shape_hw: tuple[int, int], origin: tuple[float, float]
) -> NDArray[np.float32]:
    """The line drawn in its fitted type: coverage (h, w) with `origin` (x, y device px) at its top left."""
    rows = _rows(styles)
    canvas = np.zeros(shape_hw, np.float32)
    for w in line.words:
        s = styles[w.style]
        np.maximum(
            canvas,
            draw(
                rows[w.style],
                w.text,
                s.size * scale,
                s.tracking * scale,
                w.x * scale - origin[0],
                line.baseline * scale - origin[1],
                shape_hw,
            ),
            out=canvas,
        )
    return canvas
