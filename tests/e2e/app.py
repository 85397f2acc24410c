"""The whole application as its users meet it: server, worker, PostgreSQL and the real interface in Chromium. One server for a class."""

from __future__ import annotations

import json
import os
import signal
import subprocess
import sys
import tempfile
import time
import unittest
import urllib.request
from pathlib import Path
from typing import Any

from playwright.sync_api import Page, expect, sync_playwright

from neige.browser.chromium import executable
from tests.support import demo

PATIENCE = 150.0  # seconds a build may take on a loaded machine
expect.set_options(timeout=20_000)  # a slow or busy machine is no fault of the page's


class AppTest(unittest.TestCase):
    """One `neige serve` for all tests of the class; they run in the order of their names, on what those before them made."""

    @classmethod
    def setUpClass(cls) -> None:
        cls.folder = Path(cls.enterClassContext(tempfile.TemporaryDirectory(prefix="neige-e2e-", dir="/tmp")))
        cls.folder.chmod(0o755)
        environment = {k: v for k, v in os.environ.items() if not k.startswith("NEIGE_")}
        cls.server = subprocess.Popen(
            [sys.executable, "-m", "neige.cli.main", "serve", "--data", str(cls.folder), "--port", "0"],
            stdout=subprocess.PIPE,
            text=True,
            env=environment,
        )
        cls.addClassCleanup(cls.stop)
        assert cls.server.stdout
        for line in cls.server.stdout:
            if line.startswith("ready: "):
                cls.address = line.split()[1].rstrip("/")
                break
        else:
            raise AssertionError("the server never became ready")
        playwright = cls.enterClassContext(sync_playwright())
        arguments = ["--no-sandbox"] if os.geteuid() == 0 else []
        cls.chromium = playwright.chromium.launch(executable_path=executable(), args=arguments)
        cls.addClassCleanup(cls.chromium.close)

    @classmethod
    def stop(cls) -> None:
        cls.server.send_signal(signal.SIGINT)
        cls.server.wait(40)
        if cls.server.stdout:
            cls.server.stdout.close()

    def setUp(self) -> None:
        self.errors: list[str] = []
        self.tab: Page = self.chromium.new_page(viewport={"width": 1280, "height": 800})
        self.tab.on("pageerror", lambda e: self.errors.append(str(e)))
        self.tab.on(
            "console",
            lambda m: (
                self.errors.append(m.text) if m.type == "error" and "status of 4" not in m.text else None
            ),
        )
        self.addCleanup(self.tab.close)

    def tearDown(self) -> None:
        self.assertEqual(self.errors, [])

    def get(self, path: str) -> Any:
        with urllib.request.urlopen(self.address + path, timeout=10) as answer:
            return json.loads(answer.read())

    def bring_in(self, file: str = "depth-report.png") -> str:
        """Bring a picture in through the interface; the project's id."""
        self.tab.goto(self.address + "/")
        self.tab.get_by_label("Picture file").set_input_files(
            {"name": file, "mimeType": "image/png", "buffer": demo(file)}
        )
        self.tab.wait_for_url("**/projects/*")
        return self.tab.url.rsplit("/", 1)[-1]

    def await_state(self, project: str, state: str) -> dict[str, Any]:
        until = time.monotonic() + PATIENCE
        while time.monotonic() < until:
            build = self.get(f"/api/projects/{project}")["build"]
            if build["state"] == state:
                return build
            time.sleep(0.3)
        raise AssertionError(
            f"the build is {build['state']}, not {state}: {build['error']} {build['steps'][-1:]}"
        )

    def await_pins(self, project: str, count: int) -> None:
        """Wait until a project has so many pins and its page is built with them."""
        until = time.monotonic() + PATIENCE
        while len(self.get(f"/api/projects/{project}")["pins"]) != count:
            self.assertLess(time.monotonic(), until, "the pins did not come")
            self.tab.wait_for_timeout(200)
        self.await_state(project, "done")

    def workers(self) -> list[int]:
        listing = subprocess.run(
            ["ps", "-eo", "pid,ppid,args"], capture_output=True, text=True
        ).stdout.splitlines()[1:]
        return [
            int(x.split()[0])
            for x in listing
            if int(x.split()[1]) == self.server.pid and "neige.jobs.worker" in x
        ]
