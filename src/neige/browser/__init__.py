"""A warm Chromium: draw a page and measure it. The only place that knows Playwright.

What draws brings most of the core with it, so it is loaded when it is first asked for: a browser can be started before that.
"""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from neige.browser.chromium import Browser, shared_browser

if TYPE_CHECKING:
    from neige.browser.drawing import draw_files, draw_page, draw_site

__all__ = ["Browser", "draw_files", "draw_page", "draw_site", "shared_browser"]


def __getattr__(name: str) -> Any:
    if name not in __all__:
        raise AttributeError(f"module {__name__!r} has no attribute {name!r}")
    from neige.browser import drawing

    return getattr(drawing, name)
