"""The whole story on one screen: bytes to a proven page."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, replace
from typing import Protocol

from neige.core.intake import open_picture
from neige.core.model import Drawing, Finding, Outline, Page, Part, Picture, Pin, Proof, Reading, Round
from neige.core.model.page import Asset
from neige.core.outline import arrange, check, take_back, tidy, true_up
from neige.core.proof import (
    COARSE,
    LEAST,
    astray,
    brief,
    correct,
    likeness,
    misplacement,
    parts_of,
    prove,
    uncured,
    unrest,
    without_accepted,
)
from neige.core.reading import Scan, read, scan
from neige.core.writer import apply_edits, changed_values, cut_fonts, page_files, write
from neige.core.writer.cutouts import Encoded

ROUNDS = 14  # of correction at most
WAYS = (  # to correct (see `correct`); the third says whether what follows parts that stay wrong makes up for them
    (False, LEAST, False),
    (True, LEAST, False),
    (False, COARSE, False),
    (False, LEAST, True),
)
WORSE = 0.3  # px by which a part may be put off by a round
PATIENCE = 3  # rounds that may put parts nearer to where they belong among their neighbours, and words farther from theirs
STALE = 6  # rounds after the last one that helped
ENOUGH = 0.2  # px: a mean word placed better than this is not worth another round
NOTICED = 0.03  # px of mean error, or
GRAINS = (1.0, 0.25, 0.0)  # px that lengths are multiples of; 0: any
NEATNESS = 0.45  # px of mean error that values as somebody would have written them may cost
BLUR = 0.004  # of structural similarity that they may cost
ASTRAY = 0.025  # share of words that they may put astray
OUT_OF_PLACE = 1.5  # px that the parts of one part may be put out of their places by them, together,
EACH = 0.3  # or each of many
NEATER = 3  # tries
CALMER = 0.5  # px of unrest, that a round must win to be gone on from


class Renderer(Protocol):
    """Draw a page at a width; without pixels it is laid out and measured only."""

    def __call__(self, page: Page, width: float, *, scale: int = 1, pixels: bool = True) -> Drawing: ...


Progress = Callable[[str, str], None]
# drawn, mean error of words in px, and the unrest of its parts
Measure = Callable[[Outline], tuple[Drawing, float, dict[int, float]]]


Shot = tuple[str, str, Drawing]  # a page's HTML and CSS, and how it was drawn


@dataclass(frozen=True)
class Settled:
    """An outline whose values no longer need correction, the rounds that led there, and its pictures' files."""

    outline: Outline
    rounds: tuple[Round, ...]
    encoded: Encoded
    shot: Shot | None = None
    page: Page | None = None  # as it is written, before anybody changed the code


@dataclass(frozen=True)
class Build:
    """Everything one build made."""

    picture: Picture
    reading: Reading
    outline: Outline
    page: Page
    drawing: Drawing
    proof: Proof
    scanned: Scan
    settled: Settled
    parts: tuple[Part, ...]
    checks: tuple[Finding, ...]

    def files(self) -> list[Asset]:
        """Everything that is handed over: the page with its assets, and its brief."""
        markdown, html = brief(
            self.outline.title, self.reading, self.page, self.parts, self.proof, self.checks
        )
        return [
            *page_files(self.page),
            Asset("brief.md", markdown.encode()),
            Asset("brief.html", html.encode()),
        ]


def build(
    content: bytes,
    name: str,
    render: Renderer,
    *,
    width: float | None = None,
    scale: int | None = None,
    trim: Sequence[int] = (0, 0, 0, 0),
    pins: Sequence[Pin] = (),
    opened: Picture | None = None,
    scanned: Scan | None = None,
    known: Reading | None = None,
    settled: Settled | None = None,
    close_ups: Mapping[str, bytes] | None = None,
    progress: Progress = lambda stage, what: None,
) -> Build:
    """Picture bytes to a page, drawn, corrected and proven. `progress(stage, what)` is called as things are found.

    `trim` is cut off the picture's sides (see `open_picture`); `pins` are the developer's corrections; `opened` is the picture if it has been decoded, `scanned` what an earlier build of it left to be used again,
    `known` its reading, if the pins of what was read are the same, `settled` what it came to, if those of the outline are, too. `close_ups`: pictures of single places, by the names that pins give.
    """
    picture = opened or open_picture(content, name, width=width, scale=scale, trim=trim)
    progress("intake", f"{picture.width:g} x {picture.height:g} px at {picture.scale}x")
    scanned = scanned or scan(picture, progress=progress)
    reading = known or read(picture, pins=pins, scanned=scanned, close_ups=close_ups, progress=progress)
    settled = settled or _settled(picture, reading, pins, render, progress)
    outline = settled.outline
    written = settled.page or write(outline, reading, picture, encoded=settled.encoded)
    page = apply_edits(written, pins)
    progress(
        "write",
        f"{len(page.html.encode()) + len(page.css.encode())} bytes of HTML and CSS, {len(page.assets)} assets",
    )
    shot = settled.shot
    same = shot is not None and (page.html, page.css) == shot[:2]
    drawing = shot[2] if shot is not None and same else render(page, picture.width)
    settled = replace(settled, shot=None, page=written)
    proof = without_accepted(prove(reading, picture, drawing, settled.rounds), pins)
    progress(
        "prove",
        f"{proof.words_found} of {proof.words_seen} words, {proof.position_px:.1f} px off, SSIM {proof.ssim:.3f}",
    )
    outline = replace(outline, unmet=[*outline.unmet, *page.refused])
    parts = parts_of(outline, page, drawing)
    return Build(
        picture, reading, outline, page, drawing, proof, scanned, settled, parts, check(outline, reading)
    )


def _settled(
    picture: Picture, reading: Reading, pins: Sequence[Pin], render: Renderer, progress: Progress
) -> Settled:
    """Arrange what was read, and correct it until that no longer helps."""
    beside = ThreadPoolExecutor(1)  # while the browser draws, the fonts are cut
    fonts = beside.submit(cut_fonts, reading)
    beside.shutdown(wait=False)
    outline = arrange(reading, pins)
    progress("outline", f"{len(outline.root.walk())} parts")
    encoded: Encoded = {}
    outline, rounds, shot = settle(outline, reading, picture, render, progress, encoded, fonts.done)
    fonts.result()
    return Settled(outline, rounds, encoded, shot)


def prove_page(
    content: bytes,
    name: str,
    draw: Callable[[float, bool], Drawing],
    *,
    scale: int | None = None,
    trim: Sequence[int] = (0, 0, 0, 0),
    pins: Sequence[Pin] = (),
    scanned: Scan | None = None,
    known: Reading | None = None,
    close_ups: Mapping[str, bytes] | None = None,
    progress: Progress = lambda stage, what: None,
) -> tuple[Picture, Reading, Drawing, Proof, Scan | None]:
    """Prove a page that somebody else wrote, which `draw` draws at a width (letters fitted to px or not), against a picture. See `build` for the rest."""
    picture = open_picture(content, name, scale=scale, trim=trim)
    if known is None:
        scanned = scanned or scan(picture, progress=progress)
        known = read(picture, pins=pins, scanned=scanned, close_ups=close_ups, progress=progress)
    drawing = draw(picture.width, known.fitted)
    proof = without_accepted(prove(known, picture, drawing), pins)
    progress("prove", f"{proof.words_found} of {proof.words_seen} words, {proof.position_px:.1f} px off")
    return picture, known, drawing, proof, scanned


def settle(
    outline: Outline,
    reading: Reading,
    picture: Picture,
    render: Renderer,
    progress: Progress,
    encoded: Encoded | None = None,
    cut: Callable[[], bool] = lambda: False,
) -> tuple[Outline, tuple[Round, ...], Shot | None]:
    """Draw, measure, correct, until it no longer helps; the best page drawn is the one that is kept, with its pixels if they are known.

    A round goes on from the last one if it brought parts nearer to where they belong among their neighbours, even if what is
    still wrong has meanwhile pushed more words down the page: the next round takes that away. As soon as the fonts are `cut`
    they are drawn with: they measure the same, and the browser has a fraction to load.
    """
    encoded = {} if encoded is None else encoded
    rounds: list[Round] = []
    sheets: list[tuple[Outline, str]] = []  # each page that was measured, and its styles

    def measure(page: Outline) -> tuple[Drawing, float, dict[int, float]]:
        written = write(page, reading, picture, subset=cut(), encoded=encoded)
        sheets.append((page, written.css))
        drawn = render(written, picture.width, pixels=False)
        return drawn, misplacement(page, reading, drawn), unrest(page, reading, drawn)

    def values(since: Outline, page: Outline) -> tuple[str, ...]:
        before, after = ([css for o, css in sheets if o is of][-1] for of in (since, page))
        return changed_values(before, after)

    def draw(
        page: Outline, changes: int, since: Outline | None = None
    ) -> tuple[Drawing, float, dict[int, float]]:
        drawn, error, restless = measure(page)
        kept = not rounds or error < min(r.error for r in rounds)
        rounds.append(Round(round(error, 4), kept, changes, values(since, page) if since else ()))
        progress("correct", f"round {len(rounds) - 1}: words {error:.2f} px off on average")
        return drawn, error, restless

    current = best = outline
    drawing, best_error, restless = draw(outline, 0)
    measured, calm = drawing, restless
    way, failed, idle, stale = 0, 0, 0, 0
    while best_error > ENOUGH and failed < len(WAYS) and stale < STALE and len(rounds) <= ROUNDS:
        absolute, least, made_up = WAYS[way]
        stuck = uncured(current, reading, drawing) if made_up else frozenset()
        following, changes = correct(current, reading, drawing, absolute=absolute, least=least, stuck=stuck)
        seen, error, unsettled = draw(following, changes, current)
        if error >= best_error:  # keep what brought parts nearer, and take back what put others off
            worse = {i for i, v in unsettled.items() if v > restless.get(i, 0.0) + WORSE}
            mended = following.copy()
            take_back(mended, current, worse)
            again = draw(mended, changes - len(worse), current) if worse else (seen, error, unsettled)
            if again[1] < best_error - NOTICED:
                following, (seen, error, unsettled) = mended, again
        helped = error < best_error - NOTICED
        idle, stale = (0, 0) if helped else (idle + 1, stale + 1)
        calmer = sum(unsettled.values()) < sum(restless.values()) - CALMER
        if (helped or calmer) and idle < PATIENCE:
            current, drawing, restless, failed = following, seen, unsettled, 0
        else:  # heights taken to cure themselves, or taken as they are, or only what is far off: try another way
            way, failed, idle = (way + 1) % len(WAYS), failed + 1, 0
        if error < best_error:
            best, best_error, measured, calm = following, error, seen, unsettled
        if failed:
            current, drawing, restless = best, measured, calm

    shots: dict[int, Shot] = {}

    def alike(page: Outline) -> float:
        written = write(page, reading, picture, subset=cut(), encoded=encoded)
        sheets.append((page, written.css))
        drawn = render(written, picture.width)
        shots[id(page)] = written.html, written.css, drawn
        return likeness(picture, drawn)

    neat, error = neaten(best, best_error, measured, reading, measure, alike)
    if neat is not best:
        rounds.append(Round(round(error, 4), True, 0, values(best, neat)))
    return neat, tuple(rounds), shots.get(id(neat))


def neaten(
    outline: Outline,
    error: float,
    measured: Drawing,
    reading: Reading,
    measure: Measure,
    alike: Callable[[Outline], float],
) -> tuple[Outline, float]:
    """(the outline, its words' mean error) with values as somebody would have written them, but where they put something out of its place.

    `measured` is how the outline was laid out; `alike` is the structural similarity of an outline's page with the picture: it must not suffer either.
    """
    sharp = 0.0
    before, lost = unrest(outline, reading, measured), astray(outline, reading, measured) + ASTRAY
    allowed = {n.id: max(OUT_OF_PLACE, EACH * len(n.children)) for n in outline.root.walk()}
    for grain in GRAINS:
        neat, best, least = tidy(outline, reading, grain), outline, error + NEATNESS
        taken: set[int] = set()
        for _ in range(NEATER):
            drawing, now, after = measure(neat)
            worse = {i for i, v in after.items() if v > before.get(i, 0.0) + allowed[i]}
            if not worse and now <= least and astray(neat, reading, drawing) <= lost:
                best, least = neat.copy(), now
            if worse - taken:
                take_back(neat, outline, worse)
                taken |= worse
            elif (
                (not worse and now <= error + NEATNESS)
                or not grain
                or not true_up(neat, {i: n.rect for i, n in drawing.nodes.items()})
            ):
                break
        if best is not outline:
            sharp = sharp or alike(outline)
            if alike(best) >= sharp - (BLUR if least <= error + ENOUGH else 0.0):
                return best, least
    return outline, error
