"""A page that somebody wrote by hand, as it is brought: a few files, a ZIP of them, or a loopback address."""

from __future__ import annotations

import io
import zipfile
from pathlib import PurePosixPath

from neige.browser.drawing import LOOPBACK
from neige.core.errors import NeigeError

MOST_FILES = 500
MOST_BYTES = 40 * 2**20


class PageError(NeigeError):
    """The page cannot be used, and why."""


def open_page(files: list[tuple[str, bytes]]) -> dict[str, bytes]:
    """Path to content of a page's files, index.html at the top. Raises PageError with the reason.

    `files`: (path as it came, content); a single ZIP is opened. What surrounds index.html is left off its path.
    """
    if len(files) == 1 and files[0][0].lower().endswith(".zip"):
        files = _unzip(files[0][1])
    if len(files) > MOST_FILES or sum(len(c) for _, c in files) > MOST_BYTES:
        raise PageError(f"The page has more than {MOST_FILES} files or {MOST_BYTES >> 20} MB.")
    found = {path: content for name, content in files if (path := _path(name)) is not None}
    pages = sorted(
        (p for p in found if p.lower().endswith((".html", ".htm"))),
        key=lambda p: (p.count("/"), not p.lower().endswith("index.html"), p),
    )
    if not pages:
        raise PageError("There is no HTML file among these: bring index.html with its styles and pictures.")
    root = PurePosixPath(pages[0]).parent
    out = {
        str(PurePosixPath(p).relative_to(root)): content
        for p, content in found.items()
        if PurePosixPath(p).is_relative_to(root)
    }
    entry = PurePosixPath(pages[0]).name
    if entry != "index.html":
        out["index.html"] = out.pop(entry)
    return out


def check_address(address: str) -> str:
    """The address, if it is one of this machine's own. Raises PageError."""
    if len(address) > 500 or not LOOPBACK.match(address):
        raise PageError("The address must be one of this machine's own, such as http://localhost:8080/.")
    return address


def _path(name: str) -> str | None:
    """A path inside the page's folder; None for what does not belong to a page."""
    parts = PurePosixPath(name.replace("\\", "/")).parts
    if not parts or any(p in ("..", "/") or ":" in p or "\0" in p for p in parts) or len(name) > 300:
        raise PageError(f"“{name[:60]}” is not a path inside a folder.")
    return None if any(p.startswith(".") or p == "__MACOSX" for p in parts) else "/".join(parts)


def _unzip(content: bytes) -> list[tuple[str, bytes]]:
    try:
        with zipfile.ZipFile(io.BytesIO(content)) as z:
            entries = [e for e in z.infolist() if not e.is_dir()]
            # sizes are looked at before anything is unpacked, and held to while it is
            if len(entries) > MOST_FILES or sum(e.file_size for e in entries) > MOST_BYTES:
                raise PageError(f"The ZIP holds more than {MOST_FILES} files or {MOST_BYTES >> 20} MB.")
            out = []
            for e in entries:
                with z.open(e) as f:
                    out.append((e.filename, f.read(e.file_size)))
            return out
    except (zipfile.BadZipFile, RuntimeError, NotImplementedError, EOFError) as e:
        raise PageError("This ZIP cannot be opened: it is damaged or locked.") from e
