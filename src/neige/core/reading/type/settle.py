"""Doubtful characters: draw the alternatives in the fitted face and keep what explains the ink at the least surprise.

Where the ink can tell (O and 0, c and C, a lost letter, a doubled sign) it decides; where it cannot (I and l in a grotesque)
the look of words in the Latin script does: no capital inside a lower-case word, a vowel after l, a consonant after I.
"""

from __future__ import annotations

import itertools
import re
from dataclasses import replace
from functools import lru_cache

import numpy as np

from neige.core.reading.text.raw import RawWord
from neige.core.reading.type import fit as f
from neige.core.reading.type.catalogue import catalogue, shape
from neige.core.reading.type.match import match
from neige.core.reading.type.pieces import Piece

# What a recogniser confuses, as alternatives to draw and compare.
SWAPS = {
    "'": "’‘", "’": "'", "‘": "'", '"': "“”", "“": '"', "”": '"', "-": "–−—", "–": "-−—", "−": "-–", "—": "–-", "I": "l1!", "l": "I1!", "1": "lI!",
    "|": "lI1", "!": "lI1", "i": "lI", "O": "0o", "0": "Oo", "o": "O0", "•": "·", "·": "•.", "C": "cG€", "c": "C", "s": "S", "S": "s5", "v": "V",
    "V": "v", "w": "W", "W": "w", "z": "Z", "Z": "z2", "x": "X×", "X": "x", "p": "P", "P": "p", "u": "U", "U": "u", "5": "S", "8": "B", "B": "8", "2": "Z",
    "t": "f", "f": "t", ",": ".", ".": ",", ";": ":", ":": ";", "~": "-", "Ø": "0", "„": ",,", "<": "‹", ">": "›",
}  # fmt: skip
PAIRS = {"rn": "m", "m": "rn", "vv": "w", "cl": "d", "fl": "fi", "fi": "fl", "..": "...", "__": "_", "_": "__", "=": "==", "==": "=", "->": "→", "[]": "□"}  # fmt: skip
LETTERS = "abcdefghijklmnopqrstuvwxyzABCDEFGHIJKLMNOPQRSTUVWXYZ0123456789.,:;!'\"-_=()/ "
VOWELS = set("aeiouyáéíóúàèìòùäöüâêîôûåæøœ")
HARD = set("bcdfgjkmnpqstvxz")  # letters that no l stands between
SURPRISE = 0.12  # letters' worth of unexplained ink that one unit of surprise weighs
EDIT = 0.7  # surprise of leaving what the recogniser read,
STEM = 0.4  # or of taking one bare stem for another, or a stop for none
GAIN = 0.02  # letters' worth of ink by which an alternative must win, and
SHARE = 0.45  # of what was unexplained
VARIANTS = str.maketrans(
    "’‘“”–−—…", "''\"\"---."
)  # signs that only a typographer tells apart: the ink alone decides
EXPLAINED = 0.11  # residual that an alternative must not exceed
SURE = 0.02  # residual under which a word is not doubted unless it looks odd
DOUBT = 1.7  # times its type's usual residual, the same
TYPOGRAPHIC = re.compile("['\"‘’“”–−—…-]|\\.\\.")
CASE = 0.06  # residual of a type up to which it tells a small letter from a capital of the same shape
BETWEEN = "·•|"  # signs that stand between words
STOPS = ".,"
DESCENDS = re.compile(
    "(?<=[gjpqy])[.](?=[a-z])"
)  # between words, a bit of the underline that gives way to a letter
AFTER_STOP = re.compile(r"(?<=[a-z])([.?!,;:])(?=[A-Z])")
CURLY = set("‘’“”")
ELLIPSIS = 3  # stops
DOT, FAINT = (0.2, 0.26), 0.12  # em that a full stop is wide, and high, at most; cover that counts as its ink
STOP, HANGS = 0.35, 0.3  # em at a word's end that a stop takes; cover that says there is ink
HOPELESS = 1.0  # residual of a word that is in another type: one letter more or less makes it no better
LONG = 24  # letters: names of code, of which there are hundreds of words with one letter more
LOST = 0.1  # em: a word's ink this much wider or narrower than its drawing has lost or gained a letter
JOIN = 0.45  # of a space: a gap this narrow parts no words


@lru_cache(maxsize=4096)
def surprise(text: str) -> float:
    """How unlike a word a string looks, from 0: mixed case, digits among letters, I and l where they do not stand."""
    core = re.sub("[’'](?=[A-Za-z])", "", text.strip(".,:;!?()[]{}'\"“”‘’…-–—*"))
    found = 0.0
    if core in ("l", "|"):
        found += 2
    for i, c in enumerate(core):
        before, after = core[i - 1] if i else "", core[i + 1] if i + 1 < len(core) else ""
        if c == "I" and before in HARD and after in HARD:
            found += 0.4  # a name of code: legendIcon
        elif c == "I" and (before.islower() or (before == "I" and after.islower())):
            found += 2
        elif c == "I" and before == "." and not after and i > 1 and core[i - 2].islower():
            found += 1
        elif c == "I" and not before.isalnum() and after.islower():
            found += 1.5 if after in VOWELS else 0.3 if after == "l" else 0
        elif c == "l" and not before.isalnum() and after.isalpha():
            found += 1.5 if (after.islower() and after not in VOWELS) or after.isupper() else 0
        elif c == "l" and before.isupper() and (after.isupper() or not after):
            found += 2
        elif c == "l" and before in HARD and after in HARD:
            found += 1.2
        elif (c in "01" and (before.isalpha() and after.isalpha())) or (
            c in "01" and after.islower() and len(after) and not before
        ):
            found += 1.5
        elif c in "01" and before.islower() and not after and len(core) > 2:
            found += 1.0
        elif (
            c in "OolI"
            and (before.isdigit() or after.isdigit())
            and not (before.isalpha() or after.isalpha())
        ):
            found += 1.5
        elif (c == "!" and after.isalpha()) or (c == "|" and (before.isalpha() or after.isalpha())):
            found += 2
        elif c.isupper() and before.islower():
            found += 0.4 if after.islower() else 0.9
        elif c.islower() and i == 0 and after.isupper():
            found += 0.5
    found += 1.5 * len(re.findall(r"\.[a-z]+!", text))
    found += 1.5 * bool(re.search(r"[^.]\.\.$", text))  # of three stops one was lost
    found += 2.0 * len(re.findall(r"[’'](?:l[!I1]|[!I1]l)", text))  # you'll
    found += 0.7 * len(re.findall(r"[a-z](?:–|−|—)[a-z]", text))
    if (text[:1] == '"' and text.rstrip(".,;:!?)")[-1:] in "”“") or (
        text[:1] in "“”" and text.rstrip(".,;:!?)")[-1:] == '"'
    ):
        found += 1
    found += sum(1 for a, b, c in zip(core, core[1:], core[2:]) if b in "‘“”" and a.isalpha() and c.isalpha())
    if text[:1] == "”" or (len(text) > 2 and text[-1:] in "“‘"):
        found += 1
    return found


def settle(
    p: Piece, row: int, size: float, tracking: float, usual: float, scale: int, again: bool = True
) -> None:
    """Correct the words of a piece set in catalogue instance `row` (sizes in device px), whose lines leave `usual` unexplained."""
    misfits = match(p, row, size, tracking, scale).words
    words: list[RawWord] = []
    for n, (word, misfit) in enumerate(zip(p.words, misfits)):
        text = _settled(p, n, word, float(misfit), row, size, tracking, usual, scale)
        words += [word] if text == word.text else _cut(word, text, row, size, tracking)
    if words != p.words:
        cut = len(words) > len(p.words)
        p.spell(words)
        if cut and again:  # parts that were found by a space may be doubted by themselves
            settle(p, row, size, tracking, usual, scale, again=False)


def _settled(
    p: Piece, n: int, word: RawWord, misfit: float, row: int, size: float, tracking: float, usual_misfit: float, scale: int
) -> str:  # fmt: skip
    drawable = 0 not in shape(row, word.text, abs(tracking) > 0.01).glyphs
    if word.pinned:
        return word.text
    bits = DESCENDS.sub(" ", word.text) if word.underline else word.text
    odd = not drawable or surprise(word.text) > 0 or misfit > max(SURE, DOUBT * usual_misfit)
    odd = odd or bits != word.text
    sure = usual_misfit < CASE and any(c.isalpha() for c in word.text)  # letters it is, though one is lost
    unlike = misfit > 0.9 and not sure and not set(BETWEEN) & set(word.text[1:-1])
    if unlike or not (odd or TYPOGRAPHIC.search(word.text)):
        return word.text
    part = p.part([word])
    alike = word.text.translate(VARIANTS).replace("...", ".")
    swapped = [*_swapped(word.text), *([bits] if bits != word.text else [])]
    plain = [t for t in swapped if odd or t.translate(VARIANTS).replace("...", ".") == alike]
    plain = [t for t in plain if 0 not in shape(row, t, abs(tracking) > 0.01).glyphs]
    longer = 0.08 < misfit <= HOPELESS and len(word.text) <= LONG
    if odd and longer and (len(word.text) >= 3 or usual_misfit < CASE):
        wide = _excess(part, row, size, tracking)
        if abs(wide) > LOST * size:
            plain += _resized(word.text, wide / size, row)
    plain = [t for t in plain if _may_be(t, word, part, row, size, usual_misfit)]
    bare = word.text.rstrip(".")
    ending = len(word.text) - len(bare)
    cut_off = odd and bare and 1 <= ending < ELLIPSIS and _stops(part, row, size) == ELLIPSIS
    if not plain and not cut_off:
        return word.text

    def misfit_of(text: str) -> float:
        part.spell([replace(word, text=text)])
        return match(part, row, size, tracking, scale).residual

    if cut_off:
        least, whole = min((misfit_of(t), t) for t in (bare + "...", bare + "…"))
        if least < EXPLAINED:
            return whole
    n_letters = max(len(word.text), 2)
    usual = misfit_of(word.text) if drawable else 1.0
    own = usual * n_letters + SURPRISE * surprise(word.text)
    best, chosen = own, word.text
    for text in dict.fromkeys(plain):
        wide = abs(_text_width(text, row, size, tracking) - (word.box[2] - word.box[0]))
        if wide > (0.6 if " " not in text else 0.9) * size:
            continue
        found = misfit_of(text)
        cost = found * n_letters + SURPRISE * surprise(text)
        if text.translate(VARIANTS).replace("...", ".") == alike:
            cost += GAIN / 4
        elif text == bits or text.replace(" ", "") == word.text:
            cost += GAIN
        else:
            stems = re.sub("[Il1!|]", "l", text) == re.sub("[Il1!|]", "l", word.text)
            small = stems or text in (word.text + ".", word.text[:-2] + "…")
            cost += SURPRISE * (STEM if small else EDIT) + GAIN + SHARE * usual * n_letters
            if (
                surprise(text) >= surprise(word.text) + 1
            ):  # a face that is only nearly right must not unmake a word
                continue
        if found < EXPLAINED and cost < best - 1e-9:
            best, chosen = cost, text
    return chosen


def _may_be(text: str, word: RawWord, p: Piece, row: int, size: float, usual: float) -> bool:
    """Leave out what a drawing cannot tell: the size of a letter where the face is only near, and stops, which differ from face
    to face; a comma reaches below the baseline, a full stop does not."""
    if catalogue().instances[row].face.category == "monospace" and set(text) & CURLY > set(word.text) & CURLY:
        return False  # code has straight quotes
    same = text.lower() == word.text.lower()
    several = text == word.text[:-1] + "s"  # FAQs; else capitals are all capitals
    if same and (usual > CASE or (word.text.isupper() and len(word.text) > 2 and not several)):
        return False
    a, b = text.rstrip(STOPS), word.text.rstrip(STOPS)
    if a != b or text == word.text or "…" in text:
        return True
    if len(text) != len(word.text):
        return usual < SURE and text.endswith("..")  # a face that is known tells how many there are
    if {text[-1:], word.text[-1:]} != {",", "."}:
        return False
    base = round(f.baseline_of(p.edges, row, size)) - p.origin[1]
    end = p.cover[:, -max(3, round(STOP * size)) :]
    hangs = bool((end[base + 1 :].max(initial=0.0)) > HANGS)
    return hangs == (text[-1] == ",")


def _stops(p: Piece, row: int, size: float) -> int:
    """How many full stops a one-word piece ends with: runs of ink near the baseline, no wider than a dot, with none above them."""
    base = round(f.baseline_of(p.edges, row, size)) - p.origin[1]
    inked = p.cover[: max(0, base + 1)].max(axis=0, initial=0.0) > FAINT
    above = p.cover[: max(0, base - round(DOT[1] * size))].max(axis=0, initial=0.0) > FAINT
    columns = np.flatnonzero(inked)
    runs = np.split(columns, np.flatnonzero(np.diff(columns) > 1) + 1) if columns.size else []
    count = 0
    for run in reversed(runs):
        if run.size > DOT[0] * size + 1 or above[run].any():
            break
        count += 1
    return count


def _text_width(text: str, row: int, size: float, tracking: float) -> float:
    return shape(row, text, abs(tracking) > 0.01).advance * size + tracking * (len(text) - 1)


def ink_width(text: str, row: int, size: float, tracking: float) -> float:
    """px from where the ink of a text begins to where it ends, drawn in a catalogue instance."""
    before = f.extent(row, text[0], 1)
    after = f.extent(row, text[-1], 0) - f.extent(row, text[-1], 2)
    return float(_text_width(text, row, size, tracking) - size * (before + after))


def _excess(p: Piece, row: int, size: float, tracking: float) -> float:
    """px by which a one-word piece's ink is wider than its text drawn."""
    return float(p.edges.right[0] - p.edges.left[0]) - ink_width(p.edges.texts[0], row, size, tracking)


def _swapped(text: str) -> list[str]:
    """Alternatives with one kind of character swapped, at one place or (for I, l and 1) at any combination of a few places."""
    out: list[str] = []
    for i, c in enumerate(text):
        out += [text[:i] + other + text[i + 1 :] for other in SWAPS.get(c, "")]
    for pair, other in PAIRS.items():
        at = text.find(pair)
        while at >= 0:
            out.append(text[:at] + other + text[at + len(pair) :])
            at = text.find(pair, at + 1)
    if "..." in text:
        out.append(text.replace("...", "…"))
    if text.endswith("..") and not text.endswith("..."):
        out += [text[:-2] + "…"]
    if AFTER_STOP.search(text):  # the next sentence's first word
        out.append(AFTER_STOP.sub(r"\1 ", text))
    for sign in BETWEEN:
        if sign in text and text != sign:
            out.append(" ".join(re.sub(f"({re.escape(sign)})", r" \1 ", text).split()))
    if text.count('"') == 2:
        first, second = text.index('"'), text.rindex('"')
        out.append(text[:first] + "“" + text[first + 1 : second] + "”" + text[second + 1 :])
    stems = [i for i, c in enumerate(text) if c in "Il1|"]
    if 2 <= len(stems) <= 3:
        for picks in itertools.product("Il1", repeat=len(stems)):
            letters = list(text)
            for i, c in zip(stems, picks):
                letters[i] = c
            out.append("".join(letters))
    rounds = [i for i, c in enumerate(text) if c in "O0o"]
    if len(rounds) >= 2:
        out += [re.sub("[O0o]", c, text) for c in "O0o"]
    if len(text) > 1 and text[1:].isupper() and text[0].islower():
        out.append(text.upper())
    return [t for t in dict.fromkeys(out) if t != text and t.strip()]


def _resized(text: str, excess: float, row: int) -> list[str]:
    """Alternatives with one character put in or left out whose advance makes up for `excess` em of ink."""
    table, places = catalogue().table, catalogue().places
    out = []
    if excess > 0:
        fitting = [c for c in LETTERS if abs(float(table[row, places[c], 0]) - excess) < 0.09]
        for i in range(1, len(text) + 1):
            out += [text[:i] + c + text[i:] for c in fitting if not (c == " " and i == len(text))]
        doubled = [
            i for i, c in enumerate(text) if abs(2 * float(table[row, places.get(c, 0), 0]) - excess) < 0.09
        ]
        out += [text[:i] + text[i] * 2 + text[i:] for i in doubled]
    elif len(text) > 1:
        out += [
            text[:i] + text[i + 1 :]
            for i, c in enumerate(text)
            if abs(float(table[row, places.get(c, 0), 0]) + excess) < 0.09
        ]
    return out


def _cut(word: RawWord, text: str, row: int, size: float, tracking: float) -> list[RawWord]:
    """The word with its new text, as several words if spaces were found in it."""
    parts = text.split(" ")
    if len(parts) == 1:
        return [replace(word, text=text)]
    x0, y0, x1, y1 = word.box
    out: list[RawWord] = []
    pen = x0 - size * f.extent(row, parts[0][0], 1)
    for part in parts:
        advance = _text_width(part, row, size, tracking)
        end = pen + advance - size * (f.extent(row, part[-1], 0) - f.extent(row, part[-1], 2))
        out.append(replace(word, text=part, box=(pen + size * f.extent(row, part[0], 1), y0, end, y1)))
        pen += advance + size * f.extent(row, " ", 0) + 2 * tracking
    first, last = out[0].box, out[-1].box
    out[0] = replace(out[0], box=(x0, *first[1:]))
    out[-1] = replace(out[-1], box=(*last[:2], max(x1, last[2]), last[3]))
    return out


def join_words(p: Piece, row: int, size: float, tracking: float, scale: int) -> None:
    """Join what was cut inside a word: two words with hardly a gap, whose ink is as well explained by one."""
    space = f.extent(row, " ", 0) * size + tracking
    pens = match(p, row, size, tracking, scale).pens
    words = [p.words[0]]
    for a, b, pen, following in zip(p.words, p.words[1:], pens, pens[1:]):
        advance = shape(row, a.text, abs(tracking) > 0.01).advance * size + tracking * len(a.text)
        last = words[-1]
        letters = a.text[-1:].isalpha() and b.text[:1].isalpha()
        if following - pen - advance < JOIN * space and letters:
            box = (last.box[0], min(last.box[1], b.box[1]), b.box[2], max(last.box[3], b.box[3]))
            sure = min(last.confidence, b.confidence)
            one = replace(last, text=last.text + b.text, box=box, confidence=sure)
            apart = match(p.part([last, b]), row, size, tracking, scale).residual
            if match(p.part([one]), row, size, tracking, scale).residual < min(apart + GAIN, EXPLAINED):
                words[-1] = one
                continue
        words.append(b)
    if len(words) < len(p.words):
        p.spell(words)


__all__ = ["ink_width", "join_words", "settle", "surprise"]
