"""Drawing a page: from memory, or a folder or loopback address, into pixels, boxes and words."""

from __future__ import annotations

import base64
import json
import math
import mimetypes
import re
from collections.abc import Callable
from dataclasses import dataclass
from importlib.resources import files
from pathlib import Path
from typing import Any
from urllib.parse import unquote, urlsplit

import cv2
import numpy as np
from numpy.typing import NDArray
from playwright.sync_api import Browser as Chromium
from playwright.sync_api import BrowserContext, CDPSession, Error, FloatRect, Route, ViewportSize
from playwright.sync_api import Page as Tab

from neige.browser.chromium import TIMEOUT, Browser, shared_browser
from neige.core.errors import BrowserError
from neige.core.model import Drawing, DrawnBox, DrawnNode, DrawnWord, Page, Rect
from neige.core.writer import page_files

ORIGIN = "http://page.neige.invalid"  # a reserved name: every request is answered here or refused
VIEW = 900  # px: how high the window is in which pages are measured
SPARE = 256  # px by which a window may be taller than the page drawn in it
MAX_HEIGHT = 30_000  # px drawn at most
NOTHING = np.zeros((0, 0, 3), np.uint8)
LOOPBACK = re.compile(r"^https?://(localhost|127\.\d+\.\d+\.\d+|\[::1\])(:\d+)?(/|$)")
SHOT = 350  # rows that take about as long to draw as the beginning of another picture does
MOST = 0.8  # of a page's rows: when more may have changed, it is drawn whole
SCRIPT = files("neige").joinpath("browser", "measure.js").read_text("utf-8")
CHANGES = files("neige").joinpath("browser", "changes.js").read_text("utf-8")
FACE = re.compile(r"@font-face \{.*?\n\}\n*", re.S)
HEAD = re.compile(r"<body([^>]*)>(.*)</body>", re.S)
OWN_HEAD = re.compile(
    r"""<!doctype html>\s*<html lang="([\w-]*)">\s*<head>\s*<meta charset="utf-8" />\s*<meta name="viewport" content="[^"]*" />\s*"""
    r"""<title>[^<]*</title>\s*<link rel="stylesheet" href="styles.css" />\s*</head>\s*$"""
)
TALL = re.compile(  # rules for which it matters how high the window is
    r"\d[sld]?v(?:h|b|min|max)\b|\((?:min-|max-|device-)*(?:height|block-size|aspect-ratio|orientation)|[<>=]\s*height"
)
EXCHANGE = """async ([language, attributes, body, rules, pictures, same]) => {
  document.documentElement.lang = language;
  document.getElementById('rules').textContent = rules;
  if (same) {
    document.body.offsetHeight;
    return document.fonts.ready.then(() => 0); // of a weight that was not drawn before
  }
  const made = new DOMParser().parseFromString(`<body${attributes}>${body}</body>`, 'text/html').body;
  document.body.replaceWith(document.adoptNode(made));
  document.body.offsetHeight;
  const load = (path) => { const i = new Image(); i.src = path; return i.decode().catch(() => 0); };
  const loaded = [document.fonts.ready, ...pictures.map(load), ...[...document.images].map((i) => i.decode().catch(() => 0))];
  await Promise.race([Promise.all(loaded), new Promise((r) => setTimeout(r, 5000))]);
}"""
Serve = Callable[[str], tuple[bytes, str] | None]


def draw_page(
    page: Page, width: float, *, scale: int = 1, pixels: bool = True, browser: Browser | None = None
) -> Drawing:
    """Draw a written page at `width` CSS px, its letters fitted to px where those of its picture are.

    Without `pixels` it is only laid out and measured (about a quarter of the time)."""
    content = {a.path: a.content for a in page_files(page)}
    browser = browser or shared_browser(page.fitted)
    own = OWN_HEAD.match(page.html.partition("<body")[0])  # what somebody wrote into the head may paint, too
    if own and scale == 1:
        return browser.run(lambda chromium: _lay_out(chromium, page, content, width, pixels, own[1]))
    return _draw_files(content, width, scale, page.paths, browser)


def draw_files(content: dict[str, bytes], width: float, *, scale: int = 1, fitted: bool = False) -> Drawing:
    """Draw a page that somebody else wrote from its files (path to content, with index.html); its scripts do not run.

    `fitted`: see `Browser`."""
    return _draw_files(content, width, scale, {}, shared_browser(fitted))


def _draw_files(
    content: dict[str, bytes],
    width: float,
    scale: int,
    paths: dict[int, tuple[int, ...]],
    browser: Browser,
) -> Drawing:
    return browser.run(
        lambda chromium: _draw(
            chromium, f"{ORIGIN}/index.html", lambda path: _found(content, path), width, scale, paths
        )
    )


def draw_site(target: str, width: float, *, scale: int = 1, fitted: bool = False) -> Drawing:
    """Draw a page somebody else wrote: a folder or HTML file (served closed, nothing outside its folder), or a loopback address.

    `fitted`: see `Browser`."""
    browser = shared_browser(fitted)
    if LOOPBACK.match(target):
        address = target
        origin = "{0.scheme}://{0.netloc}".format(urlsplit(target))
        return browser.run(lambda chromium: _draw(chromium, address, None, width, scale, {}, origin))
    path = Path(target)
    if path.is_dir():
        path = path / "index.html"
    if not path.is_file():
        raise BrowserError(
            f"{target}: no such page (give a folder with index.html, an HTML file or a loopback address)"
        )
    root = path.resolve().parent

    def serve(name: str) -> tuple[bytes, str] | None:
        found = (root / name).resolve()
        return (
            (found.read_bytes(), _kind(found.name))
            if found.is_relative_to(root) and found.is_file()
            else None
        )

    return browser.run(lambda chromium: _draw(chromium, f"{ORIGIN}/{path.name}", serve, width, scale, {}))


def _kind(name: str) -> str:
    return (
        {".woff2": "font/woff2", ".webp": "image/webp", ".avif": "image/avif"}.get(Path(name).suffix)
        or mimetypes.guess_type(name)[0]
        or "application/octet-stream"
    )


@dataclass
class _Kept:
    """A tab that pages are drawn in, one after another: its faces and pictures stay loaded, its words and rules are exchanged."""

    chromium: Chromium
    width: float
    faces: str
    context: BrowserContext
    tab: Tab
    session: CDPSession
    content: dict[str, bytes]
    pictures: dict[str, bytes]
    body: tuple[str, str] = ("", "")  # attributes and content, as they were last drawn with pictures
    pixels: NDArray[np.uint8] | None = None  # of the last drawing


_kept: dict[int, _Kept] = {}  # by id() of the browser; each touched in its own browser's thread only


def _lay_out(
    chromium: Chromium, page: Page, content: dict[str, bytes], width: float, pixels: bool, language: str
) -> Drawing:
    """Measure a page, and draw it if its `pixels` are asked for. Where the last one had the same faces, only what is between them
    is exchanged; pictures' places are known from their attributes, so that they are loaded only to be drawn."""
    faces = "".join(FACE.findall(page.css))
    found = HEAD.search(page.html)
    if found is None:
        raise BrowserError("the page has no body")
    attributes, body = found.groups()
    kept = _kept.get(id(chromium))
    pictures = {k: v for k, v in content.items() if k.startswith("assets/")} if pixels else {}
    if kept is not None and (
        kept.chromium is not chromium
        or (kept.width, kept.faces) != (width, faces)
        # the tab remembers a picture by its name
        or any(kept.pictures.get(k, v) != v for k, v in pictures.items())
    ):
        del _kept[id(chromium)]
        if kept.chromium is chromium:
            kept.context.close()
        kept = None
    if kept is None:
        context, state = _context(chromium, width, 1, False), content
        tab = context.new_page()
        kept = _Kept(chromium, width, faces, context, tab, context.new_cdp_session(tab), state, {})
        tab_of = kept
        context.route("**/*", _answer(lambda path: _found(tab_of.content, path), ORIGIN))
        shell = f"<!doctype html><html lang='en'><style>{faces}</style><style id='rules'></style><body></body></html>"
        kept.content = {**content, "index.html": shell.encode()}
        kept.tab.goto(f"{ORIGIN}/index.html", wait_until="load")
        _kept[id(chromium)] = kept
    kept.content = content
    view: ViewportSize = {"width": round(width), "height": VIEW}
    tall = bool(TALL.search(page.css + attributes + body))
    try:
        if tall and kept.tab.viewport_size != view:
            kept.tab.set_viewport_size(view)  # the last page made it as high as itself
        same = bool(pixels) and (attributes, body) == kept.body and pictures.keys() <= kept.pictures.keys()
        kept.body = (attributes, body) if pixels else ("", "")
        kept.pictures |= pictures
        rules = FACE.sub("", page.css)
        kept.tab.evaluate(EXCHANGE, [language, attributes, body, rules, list(pictures), same])
        measured = json.loads(kept.tab.evaluate(SCRIPT, [[k, list(v)] for k, v in page.paths.items()]))
        png, image = (
            _look(kept, min(measured["height"], MAX_HEIGHT), same, tall) if pixels else (b"", NOTHING)
        )
    except BaseException:
        _kept.pop(id(chromium), None)
        raise
    return _drawing(measured, width, 1, png, image)


def _look(kept: _Kept, height: int, same: bool, tall: bool) -> tuple[bytes, NDArray[np.uint8]]:
    """(its PNG if the browser was asked for all of it at once, the pixels) of the page in a tab. `same`: nothing but its rules is
    not as it was drawn the last time. `tall`: how high the window is matters."""
    found = kept.tab.evaluate(CHANGES)

    def shot(rows: tuple[int, int] | None = None) -> bytes:
        return _shot(kept.tab, kept.width, height, 1, 0 if tall else SPARE, kept.session, rows)

    png, rows = b"", None
    if same and not tall and found and kept.pixels is not None:
        image, rows = _known(kept.pixels, found, height)
    if rows is None:
        png = shot()
        image = _decoded(png)
    for top, bottom in rows or ():
        image[top:bottom] = _decoded(shot((top, bottom)))
    kept.pixels = image
    return png, image


def _known(
    last: NDArray[np.uint8], found: dict[str, Any], height: int
) -> tuple[NDArray[np.uint8], list[tuple[int, int]] | None]:
    """(a page of `height` rows with what is known of it from the `last` drawing, the rows [top, bottom) to draw again; None: all),
    by what may look otherwise in it (see changes.js). What lies near together is drawn at once."""
    begin, by = found["shift"] or (len(last), 0)
    end = min(len(last) + by, height)
    begin = min(math.ceil(begin), end)
    above = min(begin, len(last))
    image = np.empty((height, *last.shape[1:]), np.uint8)
    image[:above] = last[:above]
    image[begin:end] = last[begin - by : end - by]
    out: list[tuple[int, int]] = []
    changed = [*found["rows"], [end, height]]
    for top, bottom in sorted((max(0, math.floor(a)), min(height, math.ceil(b))) for a, b in changed):
        if bottom <= top:
            continue
        if out and top - out[-1][1] < SHOT:
            out[-1] = (out[-1][0], max(out[-1][1], bottom))
        else:
            out.append((top, bottom))
    drawn = sum(b - a for a, b in out) + SHOT * max(0, len(out) - 1)
    return image, out if drawn < MOST * height else None


def _found(content: dict[str, bytes], path: str) -> tuple[bytes, str] | None:
    found = content.get(path or "index.html")
    return (found, _kind(path or "index.html")) if found is not None else None


def _context(chromium: Chromium, width: float, scale: int, scripts: bool) -> BrowserContext:
    context = chromium.new_context(
        viewport={"width": round(width), "height": VIEW}, device_scale_factor=scale, reduced_motion="reduce", service_workers="block", locale="en-US",
        timezone_id="UTC", java_script_enabled=scripts,
    )  # fmt: skip
    context.set_default_timeout(TIMEOUT * 1000)
    return context


def _answer(serve: Serve | None, origin: str) -> Callable[[Route], None]:
    """What a tab gets: what `serve` has, or (without) what comes from `origin`; nothing from anywhere else."""

    def answer(route: Route) -> None:
        url = route.request.url
        if not url.startswith(origin + "/") and url != origin:
            route.abort()
        elif serve is None:
            route.continue_()
        else:
            found = serve(unquote(urlsplit(url).path).lstrip("/"))
            if found is None:
                route.abort()
            else:
                route.fulfill(
                    status=200,
                    body=found[0],
                    headers={"content-type": found[1], "access-control-allow-origin": "*"},
                )

    return answer


def _draw(
    chromium: Chromium,
    address: str,
    serve: Serve | None,
    width: float,
    scale: int,
    paths: dict[int, tuple[int, ...]],
    origin: str = ORIGIN,
) -> Drawing:
    context = _context(chromium, width, scale, serve is None)
    try:
        context.route("**/*", _answer(serve, origin))
        tab = context.new_page()
        tab.goto(address, wait_until="load")
        tab.evaluate(
            "() => Promise.race([document.fonts.ready.then(() => 1), new Promise(r => setTimeout(r, 5000))])"
        )
        found = json.loads(tab.evaluate(SCRIPT, [[k, list(v)] for k, v in paths.items()]))
        png = _shot(tab, width, min(found["height"], MAX_HEIGHT), scale)
    finally:
        context.close()
    return _drawing(found, width, scale, png, _decoded(png))


def _drawing(
    found: dict[str, Any], width: float, scale: int, png: bytes, image: NDArray[np.uint8]
) -> Drawing:
    return Drawing(
        width, float(found["height"]), float(found["scrollWidth"]), scale, image,
        tuple(DrawnWord(w[0], Rect(*w[1:5]), w[5], int(w[6]), w[7].split(",")[0].strip("\"' "), _hex(w[8]), w[9]) for w in found["words"]),
        {n[0]: DrawnNode(n[0], Rect(*n[1:5])) for n in found["nodes"]},
        tuple(DrawnBox(Rect(*b[:4]), b[4], tuple(b[5]), b[6], b[7], b[8], b[9]) for b in found["boxes"]),
        png,
    )  # fmt: skip


def _shot(
    tab: Tab,
    width: float,
    height: float,
    scale: int,
    spare: int = 0,
    session: CDPSession | None = None,
    rows: tuple[int, int] | None = None,
) -> bytes:
    """A PNG of the whole page, or of its `rows` (at scale 1): the viewport is made as tall as the page, which is far quicker than
    stitching. `spare`: px by which it may be left taller, since another size costs as much as a drawing."""
    size: ViewportSize = {"width": round(width), "height": max(1, round(height))}
    now = tab.viewport_size
    fits = now is not None and now["width"] == size["width"] and 0 <= now["height"] - size["height"] <= spare
    if not fits:
        tab.set_viewport_size({**size, "height": size["height"] + spare // 2})
    if scale != 1:  # the quick way below knows no scale
        return tab.screenshot(full_page=True)
    top, bottom = rows or (0, size["height"])
    clip: FloatRect = {"x": 0, "y": top, "width": size["width"], "height": bottom - top}
    how = {
        "format": "png",
        "optimizeForSpeed": True,
        "captureBeyondViewport": False,
        "clip": {**clip, "scale": 1},
    }
    session = session or tab.context.new_cdp_session(tab)
    try:
        shot: dict[str, Any] = session.send("Page.captureScreenshot", how)
    except Error:  # a busy machine: the slow way waits until it can be drawn
        return tab.screenshot(full_page=True, clip=clip)
    return base64.b64decode(shot["data"])


def _decoded(content: bytes) -> np.ndarray:
    image = cv2.imdecode(np.frombuffer(content, np.uint8), cv2.IMREAD_COLOR)
    if image is None:
        raise BrowserError("the browser sent no picture of the page")
    return np.asarray(cv2.cvtColor(image, cv2.COLOR_BGR2RGB), np.uint8)


def _hex(colour: str) -> str:
    found = re.match(r"rgba?\((\d+), (\d+), (\d+)", colour)
    return "#{:02x}{:02x}{:02x}".format(*(int(v) for v in found.groups())) if found else "#000000"
