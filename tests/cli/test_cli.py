"""The command line as a shell sees it."""

from __future__ import annotations

import contextlib
import io
import json
import tempfile
import unittest
from pathlib import Path
from xml.etree import ElementTree

import cv2
import numpy as np

from neige.cli.main import main
from tests.support import demo, png


def call(*arguments: str) -> tuple[int, str, str]:
    out, err = io.StringIO(), io.StringIO()
    with contextlib.redirect_stdout(out), contextlib.redirect_stderr(err):
        try:
            code = main([str(a) for a in arguments])
        except SystemExit as e:
            code = int(e.code or 0)
    return code, out.getvalue(), err.getvalue()


class Read(unittest.TestCase):
    @classmethod
    def setUpClass(cls) -> None:
        cls.folder = Path(cls.enterClassContext(tempfile.TemporaryDirectory()))
        cls.picture = cls.folder / "depth-report.png"
        cls.picture.write_bytes(demo("depth-report.png"))

    def test_read_writes_the_documented_json_and_an_overlay(self) -> None:
        out, overlay = self.folder / "reading.json", self.folder / "overlay.png"
        code, said, err = call("read", self.picture, "-o", out, "--overlay", overlay)
        self.assertEqual((code, err), (0, ""))
        self.assertRegex(said, r"\d+ words in \d+ lines, \d+ text styles")
        found = json.loads(out.read_text())
        documented = (Path(__file__).parents[2] / "docs" / "reading-format.md").read_text()
        for name in (*found, *found["lines"][0], *found["styles"][0], *found["surfaces"][0]):
            self.assertIn(f"`{name}`", documented)
        self.assertEqual(found["version"], 3)
        image = cv2.imdecode(np.frombuffer(overlay.read_bytes(), np.uint8), cv2.IMREAD_COLOR)
        self.assertEqual(image.shape[1], found["width"] * found["scale"])

    def test_a_frame_is_trimmed_off_and_too_much_of_it_is_refused(self) -> None:
        out = self.folder / "trimmed.json"
        call("read", self.picture, "-o", out)
        whole = json.loads(out.read_text())
        self.assertEqual(call("read", self.picture, "-o", out, "--trim", "100", "0", "20", "0")[0], 0)
        self.assertEqual(json.loads(out.read_text())["height"], whole["height"] - 120 / whole["scale"])
        code, _, err = call("read", self.picture, "--trim", "99999", "0", "0", "0")
        self.assertEqual(code, 3)
        self.assertIn("leaves nothing", err)

    def test_pins_from_a_file_are_obeyed_and_bad_ones_refused(self) -> None:
        pins = self.folder / "pins.json"
        _, text, _ = call("read", self.picture)
        line = json.loads(text)["lines"][0]
        pins.write_text(json.dumps([{"kind": "not-text", "rect": line["ink"]}]))
        code, text, _ = call("read", self.picture, "--pins", pins)
        self.assertEqual(code, 0)
        self.assertNotIn(line["ink"], [n["ink"] for n in json.loads(text)["lines"]])
        pins.write_text('[{"kind": "shout"}]')
        code, _, err = call("read", self.picture, "--pins", pins)
        self.assertEqual(code, 3)
        self.assertIn("kind", err)


class BuildAndProve(unittest.TestCase):
    @classmethod
    def setUpClass(cls) -> None:
        cls.folder = Path(cls.enterClassContext(tempfile.TemporaryDirectory()))
        cls.picture = cls.folder / "depth-report.png"
        cls.picture.write_bytes(demo("depth-report.png"))
        cls.out = cls.folder / "page"
        cls.code, cls.stdout, cls.stderr = call("build", cls.picture, "-o", cls.out)

    def test_build_writes_the_page_and_its_proof(self) -> None:
        self.assertEqual((self.code, self.stderr), (0, ""))
        for name in ("index.html", "styles.css", "proof.json"):
            self.assertTrue((self.out / name).is_file(), name)
        proof = json.loads((self.out / "proof.json").read_text())
        self.assertEqual(proof["version"], 1)
        self.assertGreater(proof["words_found"], 40)
        self.assertRegex(self.stdout, r"intake .*\n(.*\n)*words \d+/\d+")

    def test_the_page_opens_from_disk_with_all_it_needs(self) -> None:
        html = (self.out / "index.html").read_text()
        css = (self.out / "styles.css").read_text()
        import re

        for path in re.findall(r'src="([^"]+)"', html) + re.findall(r'url\("([^"]+)"\)', css):
            self.assertTrue((self.out / path).is_file(), path)

    def test_prove_exits_0_within_and_1_outside_the_thresholds(self) -> None:
        self.assertEqual(
            call("prove", self.out, self.picture, "--min-words", "0.95", "--min-ssim", "0.9")[0], 0
        )
        code, _, err = call("prove", self.out / "index.html", self.picture, "--max-delta-e", "0.0001")
        self.assertEqual(code, 1)
        self.assertIn("delta e", err)

    def test_prove_writes_a_report_and_junit_xml(self) -> None:
        report, results = self.folder / "report.html", self.folder / "results.xml"
        code, _, _ = call(
            "prove", self.out, self.picture, "--min-words", "0.5", "--min-ssim", "0.99999", "--report", report, "--junit", results,
        )  # fmt: skip
        self.assertEqual(code, 1)
        text = report.read_text("utf-8")
        self.assertEqual(text.count("src='data:image/png;base64,"), 3)
        self.assertNotRegex(text, r"(src|href)=(?!'data:)")  # nothing is loaded from anywhere
        self.assertIn("ssim is 0.", text)
        suite = ElementTree.fromstring(results.read_text("utf-8"))
        self.assertEqual((suite.get("tests"), suite.get("failures")), ("2", "1"))
        self.assertEqual([c.find("failure") is not None for c in suite], [False, True])

    def test_prove_prints_json(self) -> None:
        code, out, _ = call("prove", self.out, self.picture, "--json")
        self.assertEqual(code, 0)
        self.assertIn("ssim", json.loads(out))


class Errors(unittest.TestCase):
    def setUp(self) -> None:
        self.folder = Path(self.enterContext(tempfile.TemporaryDirectory()))

    def assert_one_line(self, code: int, err: str, *words: str) -> None:
        self.assertEqual(len(err.strip().splitlines()), 1, err)
        self.assertTrue(err.startswith("neige: "))
        for w in words:
            self.assertIn(w, err)

    def test_bad_pictures(self) -> None:
        for name, content, word in (
            ("a.txt", b"words", "not a picture"),
            ("b.png", b"", "empty"),
            ("c.png", png(np.zeros((40, 1, 3), np.uint8)), "too small"),
        ):
            with self.subTest(name):
                (self.folder / name).write_bytes(content)
                code, _, err = call("build", self.folder / name, "-o", self.folder / "out")
                self.assertEqual(code, 3)
                self.assert_one_line(code, err, name, word)
                self.assertFalse((self.folder / "out").exists())

    def test_a_missing_file(self) -> None:
        code, _, err = call("build", self.folder / "none.png", "-o", self.folder / "out")
        self.assertEqual(code, 3)
        self.assert_one_line(code, err, "none.png")

    def test_a_missing_page(self) -> None:
        (self.folder / "p.png").write_bytes(png(np.full((100, 400, 3), 255, np.uint8)))
        code, _, err = call("prove", self.folder / "nowhere", self.folder / "p.png")
        self.assertEqual(code, 4)
        self.assert_one_line(code, err, "nowhere")

    def test_bad_usage(self) -> None:
        self.assertEqual(call("build")[0], 2)


class Odd(unittest.TestCase):
    def test_one_colour_becomes_an_empty_page_of_that_colour(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            picture = Path(folder) / "grey.png"
            picture.write_bytes(png(np.full((300, 500, 3), 119, np.uint8)))
            code, _, err = call("build", picture, "-o", Path(folder) / "out")
            self.assertEqual((code, err), (0, ""))
            self.assertIn("--color-page: #777;", (Path(folder) / "out" / "styles.css").read_text())


if __name__ == "__main__":
    unittest.main()
