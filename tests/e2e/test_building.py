"""From a picture to a page that is looked at and handed over, and what goes wrong on the way."""

from __future__ import annotations

import os
import signal
import time
import urllib.error

from playwright.sync_api import expect

from tests.e2e.app import PATIENCE, AppTest
from tests.support import demo


class Building(AppTest):
    def test_1_an_empty_shelf_says_what_to_do(self) -> None:
        self.tab.goto(self.address + "/")
        expect(self.tab.get_by_text("Nothing here yet")).to_be_visible()
        expect(self.tab.get_by_role("button", name="Choose a file")).to_be_visible()

    def test_2_a_picture_is_built_and_looked_at_in_every_way(self) -> None:
        project = self.bring_in()
        expect(self.tab.get_by_role("list", name="Stages of the build")).to_be_visible()
        expect(self.tab.get_by_role("slider", name="Seam")).to_be_visible(timeout=PATIENCE * 1000)
        build = self.await_state(project, "done")
        self.assertGreaterEqual(build["proof"]["words_found"], 0.95 * build["proof"]["words_seen"])
        expect(self.tab.get_by_role("complementary", name="Ledger")).to_contain_text("Structural similarity")
        # the last round made values round, and says which
        ledger = self.tab.get_by_role("complementary", name="Ledger")
        tidied = ledger.locator("summary").filter(has_text="tidied")
        expect(ledger.locator("details li").filter(has_text="rem → ").first).to_be_hidden()
        tidied.click()
        expect(ledger.locator("details li").filter(has_text="rem → ").first).to_be_visible()
        for key, name in (
            ("1", "Picture"),
            ("6", "Page"),
            ("9", "Difference"),
            ("8", "Veil"),
            ("s", "Pair"),
            ("7", "Seam"),
        ):
            self.tab.keyboard.press(key)
            expect(self.tab.get_by_role("button", name=name, exact=True)).to_have_attribute(
                "aria-pressed", "true"
            )
        self.assertTrue(self.tab.url.endswith("/seam"))
        seam = self.tab.get_by_role("slider", name="Seam")
        before = int(seam.get_attribute("aria-valuenow") or 0)
        seam.focus()
        self.tab.keyboard.press("Shift+ArrowRight")
        self.assertEqual(int(seam.get_attribute("aria-valuenow") or 0), before + 10)
        zoom = self.tab.get_by_label("Zoom", exact=True)
        shown = zoom.inner_text()
        self.tab.keyboard.press("+")
        expect(zoom).not_to_have_text(shown)

    def test_3_code_live_page_and_archive(self) -> None:
        project = self.get("/api/projects")["projects"][0]
        self.tab.goto(f"{self.address}/projects/{project['id']}/code")
        expect(self.tab.get_by_label("index.html").last).to_contain_text("<!doctype html>")
        self.tab.get_by_role("button", name="styles.css").click()
        expect(self.tab.get_by_label("styles.css").last).to_contain_text("@font-face")
        self.tab.keyboard.press("l")
        frame = self.tab.frame_locator("iframe[title='The written page']")
        expect(frame.get_by_role("heading", level=1)).to_contain_text("Report a depth")
        self.assertEqual(self.tab.locator("iframe").get_attribute("sandbox"), "")
        with self.tab.expect_download() as download:
            self.tab.get_by_role("link", name="Hand over (ZIP)").click()
        self.assertTrue(download.value.suggested_filename.endswith(".zip"))

    def test_4_a_bad_file_is_refused_in_place(self) -> None:
        self.tab.goto(self.address + "/")
        before = len(self.get("/api/projects")["projects"])
        self.tab.get_by_label("Picture file").set_input_files(
            {"name": "notes.png", "mimeType": "image/png", "buffer": b"just words"}
        )
        alert = self.tab.get_by_role("alert")
        expect(alert).to_contain_text("notes.png")
        expect(alert).to_contain_text("Nothing was stored")
        self.assertEqual(len(self.get("/api/projects")["projects"]), before)

    def test_5_a_picture_can_be_dropped_and_pasted(self) -> None:
        import base64

        long = demo("firnwatch-landing.png")  # its build takes a while, so that it can be cancelled
        encoded = base64.b64encode(long).decode()
        script = """([encoded, kind]) => {
          const bytes = Uint8Array.from(atob(encoded), (c) => c.charCodeAt(0));
          const data = new DataTransfer();
          data.items.add(new File([bytes], 'brought.png', { type: 'image/png' }));
          const event = kind === 'drop' ? new DragEvent('drop', { dataTransfer: data, bubbles: true, cancelable: true }) : new ClipboardEvent('paste', { clipboardData: data, bubbles: true });
          window.dispatchEvent(event);
        }"""
        for kind in ("drop", "paste"):
            self.tab.goto(self.address + "/")
            expect(self.tab.get_by_role("heading", name="Bring a picture")).to_be_visible()
            self.tab.evaluate(script, [encoded, kind])
            self.tab.wait_for_url("**/projects/*")
            self.tab.get_by_role("button", name="Cancel").click()
            expect(self.tab.get_by_role("heading", name="This build was cancelled")).to_be_visible(
                timeout=20_000
            )

    def test_6_a_killed_worker_loses_nothing(self) -> None:
        project = self.bring_in("bulletin-article.png")
        until = time.monotonic() + 60
        while not self.get(f"/api/projects/{project}")["build"]["steps"] and time.monotonic() < until:
            time.sleep(0.1)
        for pid in self.workers():
            os.kill(pid, signal.SIGKILL)
        build = self.await_state(project, "done")
        self.assertEqual([s["stage"] for s in build["steps"]].count("intake"), 1)
        self.assertGreater(build["proof"]["words_found"], 200)

    def test_7_postgresql_can_be_restarted(self) -> None:
        from neige.store.cluster import Cluster

        cluster = Cluster(self.folder)
        cluster.stop()
        with self.assertRaises(urllib.error.HTTPError) as caught:
            self.get("/api/projects")
        self.assertEqual(caught.exception.code, 503)
        cluster.start()
        until = time.monotonic() + 30
        while time.monotonic() < until:
            try:
                self.assertTrue(self.get("/api/projects")["projects"])
                break
            except urllib.error.HTTPError:
                time.sleep(0.5)
        else:
            self.fail("the server did not find PostgreSQL again")
        project = self.bring_in()
        self.await_state(project, "done")

    def test_8_an_unknown_project_is_said_plainly(self) -> None:
        self.tab.goto(f"{self.address}/projects/00000000-0000-4000-8000-000000000000")
        expect(self.tab.get_by_role("alert")).to_contain_text("could not be opened", timeout=15_000)

    def test_9_a_project_is_deleted_after_asking(self) -> None:
        self.tab.goto(self.address + "/")
        cards = self.tab.locator("main li")
        expect(cards.first).to_be_visible()
        count = cards.count()
        cards.first.hover()
        cards.first.get_by_role("button", name="Delete").click()
        expect(self.tab.get_by_role("alertdialog")).to_contain_text("cannot be undone")
        self.tab.get_by_role("alertdialog").get_by_role("button", name="Delete").click()
        expect(cards).to_have_count(count - 1)
