"""One Chromium, kept warm, owned by one thread; everybody else submits callables (Playwright's sync API is bound to its thread)."""

from __future__ import annotations

import atexit
import os
import queue
import shutil
import threading
from collections.abc import Callable
from concurrent.futures import Future
from importlib.resources import files
from typing import Any, TypeVar

from playwright.sync_api import Browser as Chromium
from playwright.sync_api import Error, Playwright, sync_playwright

from neige.core.errors import BrowserError

T = TypeVar("T")
USES = 400  # of one browser process before it is replaced: bounds its memory
TIMEOUT = 60.0  # seconds for one drawing
ARGUMENTS = (
    "--disable-gpu", "--disable-quic", "--no-first-run", "--disable-background-networking", "--disable-component-update", "--disable-sync",
    "--hide-scrollbars", "--force-color-profile=srgb", "--disable-lcd-text", "--host-resolver-rules=MAP * ~NOTFOUND",
)  # fmt: skip


def executable() -> str:
    """Debian's headless shell, or else its Chromium. BrowserError if neither is installed."""
    for name in ("chromium-headless-shell", "chromium"):
        path = shutil.which(name)
        if path:
            return path
    raise BrowserError("no Chromium found: install Debian's chromium-headless-shell (or chromium)")


class Browser:
    """Start on first use, restart after a crash or USES uses, end with the process or `close()`.

    `fitted`: letters' heights are fitted to whole px, as browsers on Linux do at 1x. Nothing else is placed otherwise.
    """

    def __init__(self, fitted: bool = False) -> None:
        self._fitted = fitted
        self._work: queue.SimpleQueue[tuple[Future[Any], Callable[[Chromium], Any]] | None] = (
            queue.SimpleQueue()
        )
        self._thread: threading.Thread | None = None
        self._lock = threading.Lock()

    def run(self, job: Callable[[Chromium], T]) -> T:
        """Call `job(chromium)` in the browser's thread; its result or error comes back here. A dead browser is tried once more."""
        with self._lock:
            if self._thread is None or not self._thread.is_alive():
                self._thread = threading.Thread(target=self._serve, name="browser", daemon=True)
                self._thread.start()
        done: Future[T] = Future()
        self._work.put((done, job))
        return done.result(TIMEOUT * 3)

    def warm(self) -> None:
        """Start it, without waiting for it."""
        threading.Thread(target=lambda: self.run(lambda chromium: None), daemon=True).start()

    def close(self) -> None:
        if self._thread is not None and self._thread.is_alive():
            self._work.put(None)
            self._thread.join(10)

    def _serve(self) -> None:
        with sync_playwright() as playwright:
            chromium, uses = None, 0
            while (item := self._work.get()) is not None:
                done, job = item
                for attempt in (1, 2):
                    try:
                        if chromium is None or not chromium.is_connected() or uses >= USES:
                            if chromium is not None and chromium.is_connected():
                                chromium.close()
                            chromium, uses = _launch(playwright, self._fitted), 0
                        uses += 1
                        done.set_result(job(chromium))
                        break
                    except Error as e:
                        alive = chromium is not None and chromium.is_connected()
                        if attempt == 2 or alive:
                            done.set_exception(
                                BrowserError(f"the browser could not draw the page: {str(e).splitlines()[0]}")
                            )
                            break
                    except BaseException as e:
                        done.set_exception(e)
                        break
            if chromium is not None and chromium.is_connected():
                chromium.close()


def _launch(playwright: Playwright, fitted: bool) -> Chromium:
    environment: dict[str, str | float | bool] = {
        **os.environ,
        "FONTCONFIG_FILE": str(
            files("neige").joinpath("browser", "fonts-fitted.conf" if fitted else "fonts.conf")
        ),
    }
    arguments = [*ARGUMENTS, f"--font-render-hinting={'slight' if fitted else 'none'}"]
    if os.geteuid() == 0:
        arguments.append("--no-sandbox")  # Chromium refuses its own sandbox to root
    return playwright.chromium.launch(
        executable_path=executable(),
        args=arguments,
        env=environment,
        handle_sigint=False,
        handle_sigterm=False,
        handle_sighup=False,
    )


_shared: dict[bool, Browser] = {}


def shared_browser(fitted: bool = False) -> Browser:
    """The process's own browser, which draws letters fitted to px or as they are."""
    if fitted not in _shared:
        _shared[fitted] = Browser(fitted)
        atexit.register(_shared[fitted].close)
    return _shared[fitted]
