"""Proof: what the browser drew, against the picture; and corrections from it, which go back as data."""

from neige.core.proof.compare import difference_map, prove
from neige.core.proof.corrections import correct, misplacement, unrest

__all__ = ["correct", "difference_map", "misplacement", "prove", "unrest"]
