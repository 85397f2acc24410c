"""A proof to be read without Neige: one HTML file with its pictures, and JUnit XML for build servers."""

from __future__ import annotations

import base64
from collections.abc import Sequence
from html import escape
from xml.etree import ElementTree

import cv2
import numpy as np
from numpy.typing import NDArray

from neige.core.model import Drawing, Picture, Proof
from neige.core.proof.compare import at_css_size, difference_map

STYLE = """
:root { color-scheme: light dark; }
body { margin: 2rem auto; max-inline-size: 72rem; padding-inline: 1rem; font: 1rem/1.5 system-ui, sans-serif; }
table { border-collapse: collapse; font-variant-numeric: tabular-nums; }
th, td { padding: 0.25rem 1rem 0.25rem 0; border-block-end: 1px solid color-mix(in srgb, currentcolor 20%, transparent); text-align: start; }
th { font-weight: 400; }
.failed { color: #b8391a; font-weight: 600; }
.pictures { display: grid; grid-template-columns: repeat(auto-fit, minmax(20rem, 1fr)); gap: 1rem; }
figure { margin: 0; break-inside: avoid; }
img { inline-size: 100%; border: 1px solid color-mix(in srgb, currentcolor 20%, transparent); }
@media print { body { margin: 0; } .pictures { grid-template-columns: repeat(3, 1fr); } }
"""


def rows(p: Proof) -> list[tuple[str, str]]:
    """What a proof says, name and value."""
    return [
        ("Words found", f"{p.words_found} of {p.words_seen}"),
        ("Words not in the picture", f"{p.words_extra}"),
        ("Within 2 px", f"{100 * p.within_2px:.1f} %"),
        ("Median offset", f"{p.position_px:.2f} px"),
        ("90 % are within", f"{p.position_p90_px:.1f} px"),
        ("Type size error", f"{100 * p.size_error:.1f} %"),
        ("Colour difference", f"{p.delta_e:.2f} ΔE00"),
        ("Structural similarity", f"{p.ssim:.4f}"),
        ("Marks covered", f"{100 * p.coverage:.1f} %"),
        ("Height", f"{p.drawn_height:g} px, {p.height:g} px in the picture"),
        ("Sideways overflow", f"{p.overflow_px:g} px"),
    ]


def report_html(proof: Proof, picture: Picture, drawing: Drawing, failed: Sequence[str] = ()) -> str:
    """A page of its own: numbers, findings and the pictures side by side; nothing is loaded from anywhere."""
    name = escape(picture.name or "picture")
    numbers = "".join(
        f"<tr><th scope='row'>{escape(k)}</th><td>{escape(v)}</td></tr>" for k, v in rows(proof)
    )
    findings = "".join(
        f"<li><strong>{escape(f.kind)}</strong> {escape(f.text)} <small>at {f.rect.x:.0f}, {f.rect.y:.0f}</small></li>"
        for f in proof.findings
    )
    limits = "".join(f"<li class='failed'>{escape(t)}</li>" for t in failed)
    pictures = "".join(
        f"<figure><img alt='{title}' src='data:image/png;base64,{_png(pixels)}'><figcaption>{title}</figcaption></figure>"
        for title, pixels in (
            ("The picture", at_css_size(picture.pixels, picture.scale)),
            ("The page", at_css_size(drawing.pixels, drawing.scale)),
            (
                "Where they differ",
                difference_map(picture.pixels, at_css_size(drawing.pixels, drawing.scale), picture.scale),
            ),
        )
    )
    return (
        f"<!doctype html>\n<html lang='en'><head><meta charset='utf-8'><title>Proof against {name}</title>"
        f"<meta name='viewport' content='width=device-width, initial-scale=1'><style>{STYLE}</style></head><body>"
        f"<h1>Proof against {name}</h1>{f'<h2>Outside its limits</h2><ul>{limits}</ul>' if failed else ''}"
        f"<h2>Numbers</h2><table>{numbers}</table>"
        f"<h2>{len(proof.findings)} finding{'' if len(proof.findings) == 1 else 's'}</h2><ol>{findings}</ol>"
        f"<h2>Pictures</h2><div class='pictures'>{pictures}</div></body></html>\n"
    )


def junit(name: str, checks: Sequence[tuple[str, str | None]]) -> str:
    """JUnit XML: one test case for each threshold, with what is wrong where it is not kept."""
    wrong = sum(1 for _, why in checks if why)
    suite = ElementTree.Element(
        "testsuite", name=f"neige prove {name}", tests=str(len(checks)), failures=str(wrong), errors="0"
    )
    for check, why in checks:
        case = ElementTree.SubElement(suite, "testcase", name=check, classname="neige.prove")
        if why:
            ElementTree.SubElement(case, "failure", message=why)
    return '<?xml version="1.0" encoding="UTF-8"?>\n' + ElementTree.tostring(suite, encoding="unicode") + "\n"


def _png(pixels: NDArray[np.uint8]) -> str:
    done, out = cv2.imencode(".png", np.ascontiguousarray(pixels[..., ::-1]))
    return base64.b64encode(out.tobytes()).decode() if done else ""
