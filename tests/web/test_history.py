"""What a project has been: its builds, how they differ, going back, and pages brought to be proven."""

from __future__ import annotations

import io
import unittest
import uuid
import zipfile

import numpy as np

from neige.jobs.brought import PageError, check_address, open_page
from neige.store.database import put_blob
from neige.store.models import Build
from tests.support import png
from tests.web.test_api import Served

PAGE = b"<!doctype html><title>Depths</title><link rel=stylesheet href=styles.css><p>Lantern Hut</p>"


def zipped(files: dict[str, bytes]) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as z:
        for name, content in files.items():
            z.writestr(name, content)
    return out.getvalue()


class History(Served):
    def again(self, project_id: str, css: bytes, shade: int) -> str:
        """A correction, and its build done with another style sheet and drawing."""
        pin = {"kind": "not-text", "rect": {"x": 1, "y": 2, "w": 9, "h": 9}, "text": f"smudge {shade}"}
        build_id: str = self.http.post(f"/api/projects/{project_id}/pins", json=pin).json["build"]["id"]
        with self.database.session() as s:
            build = s.get_one(Build, uuid.UUID(build_id))
            build.files = {"index.html": put_blob(s, PAGE), "styles.css": put_blob(s, css)}
            build.state = "done"
            build.drawn = put_blob(s, png(np.full((20, 20, 3), shade, np.uint8)))
        return build_id

    def versions(self, project_id: str) -> list[dict]:  # type: ignore[type-arg]
        found: list[dict] = self.http.get(f"/api/projects/{project_id}/history").json["versions"]  # type: ignore[type-arg]
        return found

    def test_every_build_is_kept_and_says_what_was_done(self) -> None:
        project_id, first = self.finished()
        second = self.again(project_id, b"p{color:red}", 90)
        got = self.versions(project_id)
        self.assertEqual([v["id"] for v in got], [second, first])
        self.assertEqual([v["says"] for v in got], ["“smudge 90” is no text", "the picture was brought in"])
        self.assertEqual([v["present"] for v in got], [True, False])
        compared = self.http.get(f"/api/builds/{first}/against/{second}").json
        css = next(f for f in compared["files"] if f["name"] == "styles.css")
        self.assertEqual((css["added"], css["removed"]), (1, 1))
        self.assertIn("+p{color:red}", css["diff"])
        self.assertEqual(compared["drawn_apart"], 1.0)
        self.assertEqual(self.http.get(f"/api/builds/{first}/against/{first}").json["drawn_apart"], 0.0)

    def test_where_a_page_differs_is_drawn_once_somebody_asks(self) -> None:
        project_id, _ = self.finished()
        second = self.again(project_id, b"p{color:red}", 90)
        with self.database.session() as s:
            self.assertIsNone(s.get_one(Build, uuid.UUID(second)).difference)
        first = self.http.get(f"/api/builds/{second}/difference")
        self.assertEqual((first.status_code, first.data[:4]), (200, b"\x89PNG"))
        with self.database.session() as s:
            self.assertIsNotNone(s.get_one(Build, uuid.UUID(second)).difference)
        self.assertEqual(self.http.get(f"/api/builds/{second}/difference").data, first.data)

    def test_going_back_loses_nothing_and_can_be_undone(self) -> None:
        project_id, first = self.finished()
        second = self.again(project_id, b"p{color:red}", 90)
        answer = self.http.post(f"/api/builds/{first}/return")
        self.assertEqual(answer.status_code, 201, answer.json)
        self.assertEqual(answer.json["pins"], [])
        self.assertEqual(answer.json["shown"]["id"], answer.json["build"]["id"])
        got = self.versions(project_id)
        self.assertEqual(len(got), 3)
        self.assertTrue(got[0]["says"].startswith("gone back to the page of"))
        self.assertEqual({v["id"] for v in got[1:]}, {first, second})
        source = [self.http.get(f"/api/builds/{b}/source").json["css"] for b in (first, got[0]["id"])]
        self.assertEqual(source[0], source[1])
        self.assertEqual(len(self.http.post(f"/api/projects/{project_id}/pins/undo").json["pins"]), 1)

    def test_going_back_takes_the_picture_it_was_made_of(self) -> None:
        project_id, first = self.finished()
        before = self.http.get(f"/api/projects/{project_id}").json["picture"]
        body = {"scale": before["scale"], "trim": [40, 0, 0, 0]}
        self.assertEqual(self.http.post(f"/api/projects/{project_id}/picture", json=body).status_code, 201)
        after = self.http.post(f"/api/builds/{first}/return").json["picture"]
        self.assertEqual((after["height"], after["trim"]), (before["height"], [0, 0, 0, 0]))

    def test_a_page_of_ones_own_is_queued_shown_apart_and_taken_out(self) -> None:
        project_id, first = self.finished()
        files = [(io.BytesIO(PAGE), "site/index.html"), (io.BytesIO(b"p{}"), "site/styles.css")]
        answer = self.http.post(
            f"/api/projects/{project_id}/pages", data={"files": files}, content_type="multipart/form-data"
        )
        self.assertEqual(answer.status_code, 201, answer.json)
        brought = answer.json
        self.assertEqual(
            (brought["kind"], brought["state"], brought["says"]),
            ("brought", "queued", "a page of yours: site"),
        )
        project = self.http.get(f"/api/projects/{project_id}").json
        self.assertEqual((project["shown"]["id"], project["build"]["id"]), (first, first))
        # a correction of Neige's page leaves the proof of the other alone
        self.again(project_id, b"p{}", 4)
        self.assertEqual(
            next(v for v in self.versions(project_id) if v["id"] == brought["id"])["state"], "queued"
        )
        self.assertEqual(self.http.post(f"/api/builds/{brought['id']}/return").status_code, 409)
        self.assertEqual(self.http.delete(f"/api/pages/{first}").status_code, 409)
        left = self.http.delete(f"/api/pages/{brought['id']}").json["versions"]
        self.assertNotIn(brought["id"], [v["id"] for v in left])

    def test_what_cannot_be_proven_is_refused_and_nothing_stored(self) -> None:
        project_id, _ = self.finished()
        path = f"/api/projects/{project_id}/pages"
        for data in (
            {}, {"address": "http://example.org/"}, {"address": "file:///etc/passwd"}, {"address": "http://localhost.evil.example/"},
            {"files": [(io.BytesIO(b"p{}"), "styles.css")]}, {"files": [(io.BytesIO(b"PK nonsense"), "page.zip")]},
            {"files": [(io.BytesIO(zipped({"../../index.html": PAGE})), "page.zip")]},
        ):  # fmt: skip
            answer = self.http.post(path, data=data, content_type="multipart/form-data")
            self.assertEqual(answer.status_code, 422, data)
        self.assertEqual(len(self.versions(project_id)), 1)


class Brought(unittest.TestCase):
    def test_the_folder_around_the_page_is_left_off(self) -> None:
        got = open_page(
            [
                (
                    "page.zip",
                    zipped(
                        {
                            "out/site/index.html": PAGE,
                            "out/site/a/b.png": b"x",
                            "out/notes.txt": b"",
                            "out/site/.DS_Store": b"",
                        }
                    ),
                )
            ]
        )
        self.assertEqual(sorted(got), ["a/b.png", "index.html"])
        self.assertEqual(
            sorted(open_page([("depths.html", PAGE), ("styles.css", b"")])), ["index.html", "styles.css"]
        )

    def test_a_zip_that_unpacks_to_too_much_is_refused_unopened(self) -> None:
        bomb = io.BytesIO()
        with zipfile.ZipFile(bomb, "w", zipfile.ZIP_DEFLATED) as z:
            z.writestr("index.html", b"0" * (64 * 2**20))
        self.assertLess(len(bomb.getvalue()), 2**20)
        with self.assertRaises(PageError):
            open_page([("page.zip", bomb.getvalue())])

    def test_only_this_machine_is_asked(self) -> None:
        self.assertEqual(check_address("http://127.0.0.1:8080/x"), "http://127.0.0.1:8080/x")
        for bad in (
            "http://10.0.0.1/",
            "https://localhost@example.org/",
            "javascript:alert(1)",
            "http://localhost" + "/a" * 400,
        ):
            with self.assertRaises(PageError, msg=bad):
                check_address(bad)


if __name__ == "__main__":
    unittest.main()
