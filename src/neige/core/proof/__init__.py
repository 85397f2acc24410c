"""Proof: what the browser drew, against the picture; and corrections from it, which go back as data."""

from neige.core.proof.brief import brief
from neige.core.proof.compare import difference_map, likeness, prove, without_accepted
from neige.core.proof.corrections import COARSE, LEAST, correct, uncured
from neige.core.proof.parts import parts_of
from neige.core.proof.report import junit, report_html
from neige.core.proof.residuals import astray, misplacement, unrest

__all__ = [
    "COARSE",
    "LEAST",
    "astray",
    "brief",
    "correct",
    "difference_map",
    "junit",
    "likeness",
    "misplacement",
    "parts_of",
    "prove",
    "report_html",
    "uncured",
    "unrest",
    "without_accepted",
]
