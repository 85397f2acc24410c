"""`neige`: build a page from a picture, read a picture, prove a page against a picture; no database needed.

Exit codes: 0 done (and within the thresholds), 1 proven but outside a threshold, 2 bad usage, 3 the input cannot be used,
4 the browser failed.
"""

from __future__ import annotations

import argparse
import json
import os
import sys
from pathlib import Path

from neige import __version__
from neige.core.errors import BrowserError, NeigeError, PinError
from neige.core.model import Pin, Proof
from neige.core.model.codec import to_json

# The commands import what they run with themselves: that takes seconds, in which a browser can start, and help needs none of it.

# option, proof field, "at least" or "at most", help
THRESHOLDS = (
    ("--min-words", "words_share", "least", "share of the picture's words found on the page, 0..1"),
    ("--min-within-2px", "within_2px", "least", "share of found words within 2 px of their place"),
    ("--max-position", "position_px", "most", "median offset of words, px"),
    ("--min-ssim", "ssim", "least", "structural similarity, 0..1"),
    ("--max-delta-e", "delta_e", "most", "mean CIEDE2000"),
    ("--max-overflow", "overflow_px", "most", "px by which the page is wider than its window"),
)


def parser() -> argparse.ArgumentParser:
    p = argparse.ArgumentParser(
        prog="neige",
        description="Turn a picture of a page into HTML and CSS, and prove it in a browser.",
        epilog=__doc__.split("\n\n")[1],
    )
    p.add_argument("--version", action="version", version=f"neige {__version__}")
    commands = p.add_subparsers(dest="command", required=True)
    b = commands.add_parser("build", help="picture to page")
    b.add_argument("picture", type=Path)
    b.add_argument(
        "-o",
        "--out",
        type=Path,
        required=True,
        metavar="DIR",
        help="folder for index.html, styles.css, assets/, brief.md, brief.html and proof.json",
    )
    r = commands.add_parser("read", help="measure what a picture says: words, type, surfaces, images (JSON)")
    r.add_argument("picture", type=Path)
    r.add_argument("-o", "--out", type=Path, metavar="FILE", help="JSON file (default: standard output)")
    r.add_argument("--overlay", type=Path, metavar="PNG", help="also draw what was read over the picture")
    v = commands.add_parser("prove", help="measure a page against a picture")
    v.add_argument("page", help="HTML file, folder with index.html, or loopback address")
    v.add_argument("picture", type=Path)
    v.add_argument("--json", action="store_true", help="print the proof as JSON")
    v.add_argument("--report", type=Path, metavar="HTML", help="also write a report with pictures, one file")
    v.add_argument(
        "--junit", type=Path, metavar="XML", help="also write the thresholds' results as JUnit XML"
    )
    for option, _, _, text in THRESHOLDS:
        v.add_argument(option, type=float, help=text)
    for command in (b, r):
        command.add_argument(
            "--pins", type=Path, metavar="FILE", help="JSON list of corrections (docs/reading-format.md)"
        )
    s = commands.add_parser("serve", help="run the application: private database, worker and server")
    s.add_argument(
        "--data",
        type=Path,
        default=Path(os.environ.get("NEIGE_DATA", ".neige")),
        metavar="DIR",
        help="data directory (NEIGE_DATA; default .neige)",
    )
    s.add_argument(
        "--port",
        type=int,
        default=int(os.environ.get("NEIGE_PORT", "8700")),
        help="port on loopback (NEIGE_PORT; default 8700, or any free one)",
    )
    s.add_argument("--demo", action="store_true", help="load the demo projects once")
    for command in (b, r, v):
        command.add_argument(
            "--width", type=float, metavar="CSS_PX", help="CSS width of the page (default: inferred)"
        )
        command.add_argument(
            "--scale", type=int, choices=(1, 2, 3), help="device pixels per CSS px (default: inferred)"
        )
        command.add_argument(
            "--trim", type=int, nargs=4, metavar=("TOP", "RIGHT", "BOTTOM", "LEFT"), default=(0, 0, 0, 0),
            help="device pixels to cut off: a browser's or device's frame",
        )  # fmt: skip
    return p


def main(argv: list[str] | None = None) -> int:
    arguments = parser().parse_args(argv)
    try:
        return {"build": _build, "read": _read, "prove": _prove, "serve": _serve}[arguments.command](
            arguments
        )
    except BrowserError as e:
        print(f"neige: {e}", file=sys.stderr)
        return 4
    except (NeigeError, OSError) as e:
        print(f"neige: {e}", file=sys.stderr)
        return 3
    except KeyboardInterrupt:
        return 130


def run() -> None:
    """Console entry: the browser's thread is ended before the interpreter is."""
    sys.exit(main())


def _tell(stage: str, what: str) -> None:
    print(f"{stage:9s} {what}", flush=True)


def _build(a: argparse.Namespace) -> int:
    content = a.picture.read_bytes()
    _warm(a)
    from neige.browser import draw_page
    from neige.core.pipeline import build

    pins = _pins(a.pins)
    result = build(
        content,
        a.picture.name,
        draw_page,
        width=a.width,
        scale=a.scale,
        trim=a.trim,
        pins=pins,
        close_ups=_close_ups(a.pins, pins),
        progress=_tell,
    )
    for asset in result.files():
        target = a.out / asset.path
        target.parent.mkdir(parents=True, exist_ok=True)
        target.write_bytes(asset.content)
    (a.out / "proof.json").write_text(json.dumps(to_json(result.proof), indent=1, ensure_ascii=False) + "\n")
    _print(result.proof)
    for found in result.checks:
        if found.kind == "pin":
            print(f"neige: {found.text}", file=sys.stderr)
    return 0


def _warm(a: argparse.Namespace) -> None:
    """Start the process that surfaces are found in, and the browser that draws letters as pictures at 1x mostly have them."""
    from neige.browser import shared_browser
    from neige.core.beside import warm

    warm()
    if a.scale in (None, 1):
        shared_browser(fitted=True).warm()


def _read(a: argparse.Namespace) -> int:
    from neige.core.intake import open_picture
    from neige.core.reading import read
    from neige.core.reading.overlay import draw_overlay, png

    picture = open_picture(a.picture.read_bytes(), a.picture.name, width=a.width, scale=a.scale, trim=a.trim)
    pins = _pins(a.pins)
    reading = read(picture, pins=pins, close_ups=_close_ups(a.pins, pins))
    text = json.dumps(to_json(reading), indent=1, ensure_ascii=False) + "\n"
    if a.out:
        a.out.write_text(text, "utf-8")
        words = sum(len(line.words) for line in reading.lines)
        print(
            f"{words} words in {len(reading.lines)} lines, {len(reading.styles)} text styles, base {reading.type_scale.base:g} px"
        )
    else:
        print(text, end="")
    if a.overlay:
        a.overlay.write_bytes(png(draw_overlay(picture, reading)))
    return 0


def _pins(path: Path | None) -> list[Pin]:
    """Pins from a JSON file. NeigeError if it holds something else."""
    if path is None:
        return []
    from neige.core.reading.pins import pin_from

    try:
        return [pin_from(p) for p in json.loads(path.read_text("utf-8"))]
    except (ValueError, TypeError) as e:
        raise PinError(f"{path}: not a list of pins: {e}") from e


def _close_ups(path: Path | None, pins: list[Pin]) -> dict[str, bytes]:
    """The close-up pictures that pins name, beside the file of the pins."""
    names = {p.name for p in pins if p.kind == "again" and p.name}
    try:
        return {name: (path.parent / name).read_bytes() for name in names} if path else {}
    except OSError as e:
        raise PinError(f"{path}: a close-up cannot be read: {e}") from e


def _prove(a: argparse.Namespace) -> int:
    _warm(a)
    from neige.browser import draw_site
    from neige.core.intake import open_picture
    from neige.core.proof import junit, prove, report_html
    from neige.core.reading import read

    picture = open_picture(a.picture.read_bytes(), a.picture.name, width=a.width, scale=a.scale, trim=a.trim)
    reading = read(picture)
    drawing = draw_site(a.page, picture.width, fitted=reading.fitted)
    proof = prove(reading, picture, drawing)
    if a.json:
        print(json.dumps(to_json(proof), indent=1, ensure_ascii=False))
    else:
        _print(proof)
    checks: list[tuple[str, str | None]] = []
    for option, field, kind, _ in THRESHOLDS:
        limit = getattr(a, option.strip("-").replace("-", "_"))
        if limit is None:
            continue
        value = (
            proof.words_found / max(1, proof.words_seen) if field == "words_share" else getattr(proof, field)
        )
        name, far = field.replace("_", " "), value < limit if kind == "least" else value > limit
        why = f"{name} is {value:.3f}, {'less' if kind == 'least' else 'more'} than {limit:g}"
        checks.append((f"{name}: at {kind} {limit:g}", why if far else None))
    failed = [why for _, why in checks if why]
    if a.report:
        a.report.write_text(report_html(proof, picture, drawing, failed), "utf-8")
    if a.junit:
        a.junit.write_text(junit(a.picture.name, checks), "utf-8")
    for line in failed:
        print(f"neige: {line}", file=sys.stderr)
    return 1 if failed else 0


def _serve(a: argparse.Namespace) -> int:
    from neige.cli.serve import serve  # the other commands need no database, nor its packages

    return serve(a.data, a.port, a.demo)


def _print(p: Proof) -> None:
    print(
        f"words {p.words_found}/{p.words_seen} (+{p.words_extra})  position {p.position_px:.2f} px (90 %: {p.position_p90_px:.1f})  within 2 px {100 * p.within_2px:.1f} %\n"
        f"SSIM {p.ssim:.4f}  colour {p.delta_e:.2f} ΔE00  coverage {100 * p.coverage:.1f} %  height {p.drawn_height:g}/{p.height:g} px  findings {len(p.findings)}"
    )


if __name__ == "__main__":
    run()
