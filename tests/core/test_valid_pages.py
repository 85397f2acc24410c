"""What is written is clean: HTML under html-validate, CSS under stylelint's standard, the drawn page under axe-core."""

from __future__ import annotations

import subprocess
import tempfile
import unittest
from pathlib import Path

from playwright.sync_api import sync_playwright

from neige.browser import draw_page
from neige.core.pipeline import Build, build
from neige.demo.load import demo_pictures

FRONTEND = Path(__file__).resolve().parents[2] / "frontend"
# what a picture shows is shown again: its contrast is reported as a finding, not changed
FROM_THE_PICTURE = {"color-contrast", "color-contrast-enhanced"}


class ValidPages(unittest.TestCase):
    """Every demo picture's page, written once for all of the tests."""

    folder: tempfile.TemporaryDirectory[str]
    pages: dict[str, Path]

    @classmethod
    def setUpClass(cls) -> None:
        cls.folder = tempfile.TemporaryDirectory()
        cls.pages = {}
        for name, _, content in demo_pictures():
            made: Build = build(content, name, draw_page)
            root = cls.pages[name] = Path(cls.folder.name) / name.split(".")[0]
            for asset in made.files():
                target = root / asset.path
                target.parent.mkdir(parents=True, exist_ok=True)
                target.write_bytes(asset.content)

    @classmethod
    def tearDownClass(cls) -> None:
        cls.folder.cleanup()

    def test_html_and_css_have_no_errors(self) -> None:
        node = "PATH=$PATH:../.venv/bin exec node tools/validate.mjs " + " ".join(
            map(str, self.pages.values())
        )
        done = subprocess.run(["sh", "-c", node], cwd=FRONTEND, capture_output=True, text=True)
        self.assertEqual((done.returncode, done.stdout), (0, ""), done.stderr)

    def test_the_validators_find_what_is_wrong(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            Path(folder, "index.html").write_text("<p><li>station</p><img src=a.png>")
            Path(folder, "styles.css").write_text(".A { colr: #FFFFFF }")
            node = f"PATH=$PATH:../.venv/bin exec node tools/validate.mjs {folder}"
            done = subprocess.run(["sh", "-c", node], cwd=FRONTEND, capture_output=True, text=True)
        self.assertEqual(done.returncode, 1)
        for rule in ("wcag/h37", "property-no-unknown", "selector-class-pattern"):
            self.assertIn(rule, done.stdout)

    def test_nobody_is_shut_out(self) -> None:
        axe = (FRONTEND / "node_modules/axe-core/axe.min.js").read_text()
        with sync_playwright() as p:
            chromium = p.chromium.launch(executable_path="/usr/bin/chromium", args=["--no-sandbox"])
            for name, root in self.pages.items():
                tab = chromium.new_page(viewport={"width": 1280, "height": 900})
                tab.goto((root / "index.html").as_uri())
                tab.evaluate(axe + ";0")
                found = tab.evaluate(
                    "() => axe.run(document, {resultTypes: ['violations']}).then(r => r.violations.map(v => [v.id, v.nodes.map(n => n.html.slice(0, 120))]))"
                )
                wrong = [v for v in found if v[0] not in FROM_THE_PICTURE]
                self.assertEqual(wrong, [], name)
                tab.close()
            chromium.close()


if __name__ == "__main__":
    unittest.main()
