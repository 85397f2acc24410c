"""The errors core raises on purpose: what happened, to what, and what to do about it."""

from __future__ import annotations


class NeigeError(Exception):
    """Base of all expected errors. `code` is stable and machine-readable; the message is for a person."""

    code = "error"


class PictureError(NeigeError):
    """The file cannot be used as a picture of a page; the message names the file and the reason."""

    code = "bad-picture"


class SettingError(NeigeError):
    """A value given by the caller is out of range."""

    code = "bad-setting"


class BrowserError(NeigeError):
    """The browser could not draw the page."""

    code = "browser"


class Cancelled(NeigeError):
    """The work was cancelled by its owner."""

    code = "cancelled"


class PinError(NeigeError):
    """A correction that cannot be understood."""
