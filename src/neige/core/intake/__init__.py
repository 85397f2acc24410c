"""Intake: the bytes of a file to a `Picture`."""

from neige.core.intake.decode import open_picture

__all__ = ["open_picture"]
