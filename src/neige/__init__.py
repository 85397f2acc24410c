"""Neige turns pictures of web pages into semantic, responsive HTML and CSS, and proves the result in a browser."""

__version__ = "0.1.0"
