"""What a developer does with a page: correcting what was read, measuring, changing the outline and values, looking back."""

from __future__ import annotations

import re

from playwright.sync_api import expect

from tests.e2e.app import PATIENCE, AppTest
from tests.support import demo


class Correcting(AppTest):
    def setUp(self) -> None:
        super().setUp()
        if not self.get("/api/projects")["projects"]:
            self.await_state(self.bring_in(), "done")

    def test_1_a_line_is_corrected_by_key_and_the_correction_undone(self) -> None:
        project = self.get("/api/projects")["projects"][0]
        self.tab.goto(f"{self.address}/projects/{project['id']}/read")
        lines = self.tab.get_by_role("listbox", name="Lines of text").get_by_role("option")
        expect(lines.first).to_be_attached()
        ledger = self.tab.get_by_role("complementary", name="Ledger")
        for n in (1, 2):
            self.tab.keyboard.press("ArrowDown")
            expect(ledger.get_by_role("heading", name=f"Line {n} of")).to_be_visible()
        expect(ledger.get_by_label("It says")).to_be_visible()
        self.assertRegex(self.tab.url, r"/read/\d+$")
        was = ledger.get_by_label("It says").input_value()
        self.tab.keyboard.press("Enter")
        self.tab.keyboard.type("Snow stake")
        self.tab.keyboard.press("Enter")
        expect(ledger.get_by_text(f"“{was}” reads “Snow stake”")).to_be_visible()
        self.await_state(project["id"], "done")
        expect(
            lines.filter(has_text="").and_(self.tab.get_by_label("Snow stake", exact=True)).first
        ).to_be_attached(timeout=PATIENCE * 1000)
        html = self.get(f"/api/builds/{self.get('/api/projects/' + project['id'])['build']['id']}/source")[
            "html"
        ]
        self.assertIn("Snow stake", html)
        self.tab.locator("body").click(position={"x": 5, "y": 400})
        self.tab.keyboard.press("Control+z")
        expect(ledger.get_by_text("No corrections yet")).to_be_visible()
        self.await_state(project["id"], "done")
        self.assertEqual(self.get(f"/api/projects/{project['id']}")["redo"], f"“{was}” reads “Snow stake”")

    def test_2_the_type_sheet_shows_every_style_with_its_lines(self) -> None:
        project = self.get("/api/projects")["projects"][0]
        self.tab.goto(f"{self.address}/projects/{project['id']}/type")
        sheet = self.tab.get_by_role("region", name="Text styles")
        reading = self.get(f"/api/builds/{project['shown']['id']}/reading")
        expect(sheet.get_by_role("heading", level=3)).to_have_count(len(reading["styles"]))
        first = sheet.get_by_role("img", name="drawn in").first
        expect(first).to_be_visible()
        self.assertTrue(first.evaluate("e => e.complete && e.naturalWidth > 0"))
        sheet.get_by_title("Show it on the picture").first.click()
        self.tab.wait_for_url("**/read/*")

    def test_3_the_layout_is_measured_told_and_undone(self) -> None:
        project = next(p["id"] for p in self.get("/api/projects")["projects"])
        tab = self.tab
        tab.goto(f"{self.address}/projects/{project}/layout")
        ledger = tab.get_by_role("complementary", name="Ledger")
        expect(ledger.get_by_role("heading", name="Layout read")).to_be_visible()
        # a panel by key: its place, its fill, the distances around it
        tab.keyboard.press("ArrowDown")
        expect(ledger.get_by_role("heading", name="Panel 1")).to_be_visible()
        expect(ledger.get_by_text("Around it")).to_be_visible()
        tab.keyboard.press("Escape")
        # layers by key
        before = tab.locator(".gap").count()
        tab.keyboard.press("d")
        expect(tab.locator(".gap").first).to_be_attached()
        self.assertEqual(before, 0)
        # measuring by key: 40 px across
        tab.keyboard.press("m")
        tab.keyboard.press("ArrowRight")
        tab.keyboard.press("Enter")
        for _ in range(4):
            tab.keyboard.press("Shift+ArrowRight")
        across = ledger.get_by_role("row", name="across")
        expect(across).to_contain_text(re.compile(r"(3[789]|4[0123])(\.\d+)? px"))
        # a guide is pulled out of the ruler, moved by key and put away
        ruler = tab.locator("[data-ruler=y]").bounding_box()
        assert ruler
        tab.mouse.move(ruler["x"] + 10, ruler["y"] + 200)
        tab.mouse.down()
        tab.mouse.move(ruler["x"] + 300, ruler["y"] + 200, steps=4)
        tab.mouse.up()
        guide = tab.get_by_role("separator", name=re.compile("Guide at"))
        at = float(guide.get_attribute("aria-valuenow") or "nan")
        guide.focus()
        tab.keyboard.press("Shift+ArrowRight")
        expect(guide).to_have_attribute("aria-valuenow", re.compile(f"^{at + 10:g}$"))
        tab.keyboard.press("Delete")
        expect(guide).to_have_count(0)
        # the true colour under the cursor
        tab.keyboard.press("c")
        stage = tab.get_by_role("application", name="Layout read").bounding_box()
        assert stage
        tab.mouse.move(stage["x"] + stage["width"] / 2, stage["y"] + 5)
        expect(tab.locator("[data-pixel]")).to_have_text(re.compile("^#[0-9a-f]{6}$"))
        # a place is told to be one picture, and that is undone
        tab.keyboard.press("t")
        tab.mouse.move(stage["x"] + 40, stage["y"] + 40)
        tab.mouse.down()
        tab.mouse.move(stage["x"] + 120, stage["y"] + 90, steps=4)
        tab.mouse.up()
        ledger.get_by_role("button", name="One picture").click()
        expect(ledger.get_by_text(re.compile("is one picture"))).to_be_visible()
        self.await_state(project, "done")
        tab.keyboard.press("Control+z")
        expect(ledger.get_by_text(re.compile("is one picture"))).to_have_count(0)
        self.await_state(project, "done")
        # the cut-outs with their formats
        tab.goto(f"{self.address}/projects/{project}/cutouts")
        tab.get_by_role("button", name="Formats side by side").first.click()
        expect(tab.get_by_role("img", name="As PNG")).to_be_visible()
        self.assertEqual(self.errors, [])

    def test_4_the_outline_is_walked_changed_and_undone(self) -> None:
        project = next(p["id"] for p in self.get("/api/projects")["projects"])
        tab = self.tab
        tab.goto(f"{self.address}/projects/{project}/outline")
        tree = tab.get_by_role("tree", name="Outline")
        ledger = tab.get_by_role("complementary", name="Ledger")
        expect(ledger.get_by_role("heading", name="Check")).to_be_visible()
        # down to the first part, into it, and back
        tab.keyboard.press("ArrowDown")
        chosen = tree.locator("[aria-selected=true]")
        first = chosen.inner_text()
        tab.keyboard.press("ArrowRight")
        expect(chosen).not_to_have_text(first)
        tab.keyboard.press("ArrowLeft")
        expect(chosen).to_have_text(re.compile(re.escape(first.split()[0])))
        # the same part is marked in the code, and a line of the code chooses its part
        heading = tree.get_by_role("treeitem").filter(has_text=re.compile("^h[1-6]")).first
        heading.click()
        tab.keyboard.press("h")
        expect(tab.locator(".cm-passage").first).to_contain_text("<h")
        tab.keyboard.press("Escape")
        tab.goto(f"{self.address}/projects/{project}/outline")
        # a role is set, the page follows, and undo takes it back
        heading = tree.get_by_role("treeitem").filter(has_text=re.compile("^h[1-6]")).first
        words = heading.inner_text().split("\n")[-1][:12]
        heading.click()
        tab.locator("[data-role]").select_option("blockquote")
        expect(ledger.get_by_text(re.compile("is blockquote"))).to_be_visible()
        self.await_state(project, "done")
        expect(
            tree.get_by_role("treeitem").filter(has_text=re.compile("^blockquote")).filter(has_text=words)
        ).to_be_visible(timeout=20_000)
        tab.locator("body").click(position={"x": 5, "y": 795})
        tab.keyboard.press("Control+z")
        expect(ledger.get_by_text(re.compile("is blockquote"))).to_have_count(0)
        self.await_state(project, "done")
        # the code is changed by hand, kept, shown as a difference and taken back
        tab.goto(f"{self.address}/projects/{project}/code")
        tab.locator(".cm-line").filter(has_text="<title>").click()
        tab.keyboard.press("End")
        tab.keyboard.type("<!-- by hand -->")
        tab.keyboard.press("Control+s")
        expect(ledger.get_by_text("+ ").first).to_contain_text("by hand")
        self.await_state(project, "done")
        shown = self.get(f"/api/projects/{project}")["shown"]["id"]
        self.assertIn("<!-- by hand -->", self.get(f"/api/builds/{shown}/source")["html"])
        ledger.get_by_role("button", name="take back").click()
        expect(ledger.get_by_text("None yet.")).to_be_visible()
        self.await_state(project, "done")

    def test_5_history_is_walked_gone_back_to_and_a_page_of_ones_own_proven(self) -> None:
        project = next(p["id"] for p in self.get("/api/projects")["projects"])
        tab = self.tab
        tab.goto(f"{self.address}/projects/{project}/history")
        versions = tab.get_by_role("list", name="History").get_by_role("button")
        ledger = tab.get_by_role("complementary", name="Ledger")
        expect(versions.filter(has_text="in use")).to_have_count(1)
        expect(versions.last).to_contain_text("the picture was brought in")
        versions.last.click()
        expect(ledger.get_by_role("radio", name="the page in use")).to_be_checked()
        ledger.get_by_role("button", name="Go back to this page").click()
        expect(versions.first).to_contain_text("gone back to the page of")
        expect(versions.first).to_contain_text("in use")
        # a page of one's own: the written one, with a word changed
        shown = self.get(f"/api/projects/{project}")["shown"]["id"]
        html = self.get(f"/api/builds/{shown}/source")["html"].replace("Report a depth", "Report a width")
        css = self.get(f"/api/builds/{shown}/source")["css"]
        tab.get_by_label("Files of a page").set_input_files(
            [
                {"name": "index.html", "mimeType": "text/html", "buffer": html.encode()},
                {"name": "styles.css", "mimeType": "text/css", "buffer": css.encode()},
            ]
        )
        expect(ledger.get_by_role("button", name="Take it out of the history")).to_be_visible(
            timeout=PATIENCE * 1000
        )
        findings = tab.get_by_role("contentinfo", name="Findings")
        expect(findings).to_contain_text(re.compile(r"[1-9]\d* finding"), timeout=PATIENCE * 1000)
        expect(findings).to_contain_text("width")
        self.assertEqual(self.get(f"/api/projects/{project}")["shown"]["id"], shown)
        ledger.get_by_role("button", name="Take it out of the history").click()
        expect(versions.filter(has_text="a page of yours")).to_have_count(0)
        # blinking shows picture and page in turn
        tab.keyboard.press("b")
        expect(tab.get_by_text(re.compile("now: page"))).to_be_visible(timeout=5_000)
        expect(tab.get_by_text(re.compile("now: picture"))).to_be_visible(timeout=5_000)
        self.assertEqual(self.errors, [])

    def test_6_a_value_is_set_its_finding_read_again_and_all_of_it_undone(self) -> None:
        import cv2
        import numpy as np

        project = next(p["id"] for p in self.get("/api/projects")["projects"])
        tab = self.tab
        tab.goto(f"{self.address}/projects/{project}/outline")
        ledger = tab.get_by_role("complementary", name="Ledger")
        tree = tab.get_by_role("tree", name="Outline")
        tree.get_by_role("treeitem").filter(has_text=re.compile("^h1")).first.click()
        value = ledger.get_by_label(re.compile("^font-size of "))
        value.fill("1rem; } body { display: none")
        value.press("Tab")
        expect(ledger.get_by_role("alert")).to_contain_text("is no value for font-size")
        value.fill("1rem")
        value.press("Tab")
        expect(ledger.get_by_text(re.compile("styles.css:")).first).to_be_visible()
        self.await_state(project, "done")
        shown = self.get(f"/api/projects/{project}")["shown"]
        self.assertIn("font-size: 1rem;", self.get(f"/api/builds/{shown['id']}/source")["css"])
        worst = shown["proof"]["findings"][0]
        self.assertEqual(worst["kind"], "size")
        # the finding is walked to, and its place read again: enlarged, and from a close-up picture
        tab.goto(f"{self.address}/projects/{project}/seam")
        strip = tab.get_by_role("contentinfo", name="Findings")
        expect(strip).to_contain_text("worst first")
        tab.keyboard.press("n")
        expect(strip).to_contain_text("1. size")
        tab.keyboard.press("r")
        self.await_pins(project, 2)
        picture = cv2.imdecode(np.frombuffer(demo("depth-report.png"), np.uint8), cv2.IMREAD_COLOR)
        r = worst["rect"]  # CSS px of a picture at 2x
        part = picture[
            round(2 * (r["y"] - 8)) : round(2 * (r["y"] + r["h"] + 8)),
            round(2 * (r["x"] - 8)) : round(2 * (r["x"] + r["w"] + 8)),
        ]
        larger = cv2.resize(part, None, fx=2, fy=2, interpolation=cv2.INTER_CUBIC)
        close_up = cv2.imencode(".png", larger)[1].tobytes()
        if not strip.get_by_label("Close-up picture").count():
            tab.keyboard.press("n")
        strip.get_by_label("Close-up picture").set_input_files(
            {"name": "close.png", "mimeType": "image/png", "buffer": close_up}
        )
        self.await_pins(project, 3)
        self.assertEqual(
            [p["kind"] for p in self.get(f"/api/projects/{project}")["pins"]], ["code", "again", "again"]
        )
        # the finding leads to the values of its part
        tab.keyboard.press("f")
        expect(ledger.get_by_label(re.compile("^font-size of "))).to_have_value("1rem")
        # the page is nudged over the picture, to look only
        tab.keyboard.press("8")
        expect(tab.get_by_role("slider", name="Page over picture")).to_be_visible()
        tab.keyboard.press("Alt+ArrowRight")
        expect(tab.get_by_text("page nudged")).to_contain_text("1, 0 px")
        tab.get_by_role("button", name="Put back").click()
        for left in (2, 1, 0):
            tab.keyboard.press("Control+z")
            self.await_pins(project, left)
