"""Make docs/screenshots/ from the demo data: runs `neige serve --demo` in a folder of its own and takes each main view at 1280x800."""

from __future__ import annotations

import json
import os
import signal
import subprocess
import sys
import tempfile
import time
import urllib.request
from pathlib import Path

from playwright.sync_api import sync_playwright

from neige.browser.chromium import executable

OUT = Path(__file__).resolve().parent.parent / "docs" / "screenshots"


def main() -> None:
    OUT.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory(prefix="neige-shots-", dir="/tmp") as folder:
        Path(folder).chmod(0o755)
        server = subprocess.Popen(
            [sys.executable, "-m", "neige.cli.main", "serve", "--demo", "--data", folder, "--port", "0"],
            stdout=subprocess.PIPE,
            text=True,
        )
        try:
            assert server.stdout
            address = next(line.split()[1].rstrip("/") for line in server.stdout if line.startswith("ready"))
            with sync_playwright() as playwright:
                chromium = playwright.chromium.launch(
                    executable_path=executable(), args=["--no-sandbox"] if os.geteuid() == 0 else []
                )

                def shoot(path: str, name: str, dark: bool = False) -> None:
                    tab = chromium.new_page(
                        viewport={"width": 1280, "height": 800}, color_scheme="dark" if dark else "light"
                    )
                    tab.goto(address + path)
                    tab.wait_for_timeout(1800)
                    if name == "bench-read":
                        for _ in range(9):
                            tab.keyboard.press("ArrowDown")
                        tab.wait_for_timeout(900)
                    if name == "bench-layout":
                        for _ in range(8):
                            tab.keyboard.press("ArrowDown")
                        tab.wait_for_timeout(600)
                    if name == "bench-outline":
                        tab.mouse.click(560, 600)
                        tab.wait_for_timeout(900)
                    if name == "bench-history":
                        tab.locator("ol[aria-label=History] button").last.click()
                        tab.wait_for_timeout(1500)
                    if name == "bench-cutouts":
                        tab.get_by_role("button", name="Formats side by side").first.click()
                        tab.wait_for_timeout(2500)
                    tab.screenshot(path=OUT / f"{name}.png")
                    tab.close()

                def projects() -> list[dict]:
                    return json.loads(urllib.request.urlopen(address + "/api/projects").read())["projects"]

                time.sleep(4)
                running = next((p for p in projects() if p["build"]["state"] == "running"), projects()[0])
                shoot(f"/projects/{running['id']}", "stages")
                while any(p["build"]["state"] in ("queued", "running") for p in projects()):
                    time.sleep(1)
                found = {p["name"]: p["id"] for p in projects()}
                shoot("/", "shelf")
                landing, dashboard = found["Firnwatch landing page"], found["Station dashboard"]
                for look in (
                    "picture",
                    "read",
                    "layout",
                    "type",
                    "cutouts",
                    "outline",
                    "page",
                    "seam",
                    "veil",
                    "difference",
                    "live",
                    "code",
                ):
                    shoot(f"/projects/{landing}/{look}", f"bench-{look}")
                grid = {
                    "kind": "grid",
                    "rect": {"x": 150, "y": 0, "w": 1140, "h": 3000},
                    "columns": 12,
                    "gutter": 24,
                }
                asked = urllib.request.Request(
                    f"{address}/api/projects/{landing}/pins",
                    json.dumps(grid).encode(),
                    {"Content-Type": "application/json"},
                )
                urllib.request.urlopen(asked)
                while any(p["build"]["state"] in ("queued", "running") for p in projects()):
                    time.sleep(1)
                shoot(f"/projects/{landing}/history", "bench-history")
                shoot(f"/projects/{dashboard}/seam", "bench-night", dark=True)
                chromium.close()
        finally:
            server.send_signal(signal.SIGINT)
            server.wait(40)


if __name__ == "__main__":
    main()
