"""A warm Chromium: draw a page and measure it. The only place that knows Playwright."""

from neige.browser.chromium import Browser, shared_browser
from neige.browser.drawing import draw_files, draw_page, draw_site

__all__ = ["Browser", "draw_files", "draw_page", "draw_site", "shared_browser"]
