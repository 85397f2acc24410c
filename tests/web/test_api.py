"""The API: validation, problem documents, safety. Builds themselves run in tests/e2e."""

from __future__ import annotations

import io
import json
import unittest
import uuid
from functools import cache
from pathlib import Path

import numpy as np
import psycopg
from sqlalchemy import func, select

from neige.core.intake import open_picture
from neige.core.model import Finding, Part, Reading, Rect, Sheet
from neige.core.model.codec import to_json
from neige.core.reading import read
from neige.jobs.queue import CHANNEL
from neige.store.database import drop_orphans, get_blob, plain_url, put_blob
from neige.store.models import Blob, Build, Project
from neige.web.app import create_app
from tests.support import ClusterTest, demo, png


@cache
def _read(name: str) -> Reading:
    return read(open_picture(demo(name), name))


class Served(ClusterTest):
    """The server without a worker, and projects whose builds are said to be done."""

    def setUp(self) -> None:
        self.app = create_app(self.url)
        self.http = self.app.test_client()

    def upload(self, content: bytes, name: str = "report.png", **fields: str):  # type: ignore[no-untyped-def]
        return self.http.post(
            "/api/projects",
            data={"file": (io.BytesIO(content), name), **fields},
            content_type="multipart/form-data",
        )

    def finished(self) -> tuple[str, str]:
        """A project whose build is done, with a small hostile page; (project id, build id)."""
        project = self.upload(demo("depth-report.png")).json
        with self.database.session() as s:
            build = s.get_one(Build, uuid.UUID(project["build"]["id"]))
            build.files = {
                "index.html": put_blob(s, b"<script>alert(1)</script>"),
                "styles.css": put_blob(s, b"p{}"),
                "assets/a.png": put_blob(s, png(np.zeros((4, 4, 3), np.uint8))),
            }
            build.state = "done"
            build.drawn = put_blob(s, png(np.zeros((20, 20, 3), np.uint8)))
        return project["id"], project["build"]["id"]

    def read_build(self) -> tuple[str, str]:
        """A finished project whose picture has really been read."""
        project_id, build_id = self.finished()
        with self.database.session() as s:
            build = s.get_one(Build, uuid.UUID(build_id))
            build.reading = put_blob(s, json.dumps(to_json(_read("depth-report.png"))).encode())
        return project_id, build_id


class Api(Served):
    def test_pins_are_added_undone_redone_and_taken_back(self) -> None:
        project_id, _ = self.finished()
        base = f"/api/projects/{project_id}/pins"
        pin = {"kind": "retype", "rect": {"x": 10, "y": 20, "w": 90, "h": 14}, "text": "Dept", "to": "Depth"}
        before = self.http.get(f"/api/projects/{project_id}").json
        self.assertEqual((before["pins"], before["undo"], before["redo"]), ([], None, None))
        answer = self.http.post(base, json=pin)
        self.assertEqual(answer.status_code, 201)
        self.assertEqual(answer.json["pins"][0]["says"], "“Dept” reads “Depth”")
        self.assertEqual((answer.json["undo"], answer.json["redo"]), ("“Dept” reads “Depth”", None))
        # the finished build stays shown while the next one waits
        self.assertEqual(answer.json["build"]["state"], "queued")
        self.assertEqual(answer.json["shown"]["state"], "done")
        second = self.http.post(base, json=pin | {"kind": "not-text", "to": ""}).json
        self.assertEqual(len(second["pins"]), 2)
        undone = self.http.post(base + "/undo").json
        self.assertEqual([p["kind"] for p in undone["pins"]], ["retype"])
        self.assertEqual(undone["redo"], "“Dept” is no text")
        redone = self.http.post(base + "/redo").json
        self.assertEqual(redone["pins"], second["pins"])
        self.assertEqual(self.http.post(base + "/redo").status_code, 409)
        taken = self.http.delete(base + "/0").json
        self.assertEqual([p["kind"] for p in taken["pins"]], ["not-text"])
        self.assertEqual(self.http.post(base + "/undo").json["pins"], second["pins"])
        self.assertEqual(self.http.delete(base + "/9").status_code, 404)
        with self.database.session() as s:
            states = s.scalars(
                select(Build.state)
                .where(Build.project_id == uuid.UUID(project_id))
                .order_by(Build.created_at)
            ).all()
            latest = s.scalars(
                select(Build.pins)
                .where(Build.project_id == uuid.UUID(project_id))
                .order_by(Build.created_at.desc())
            ).first()
        self.assertEqual((states[0], states[-1], set(states[1:-1])), ("done", "queued", {"cancelled"}))
        self.assertEqual(len(latest or []), 2)

    def test_listeners_are_told_what_has_changed_and_what_has_ended(self) -> None:
        with psycopg.connect(plain_url(self.url), autocommit=True) as listener:
            listener.execute(f"listen {CHANNEL}")
            build_id = self.upload(demo("depth-report.png")).json["build"]["id"]
            self.http.post(f"/api/builds/{build_id}/cancel")
            told = [json.loads(n.payload) for n in listener.notifies(timeout=10, stop_after=2)]
        self.assertEqual(told, [{"build": build_id, "ended": ended} for ended in (False, True)])

    def test_a_close_up_becomes_a_pin_and_outlives_a_clearing_away(self) -> None:
        project_id, _ = self.finished()
        address = f"/api/projects/{project_id}/close-ups"
        content = png(np.full((60, 200, 3), 200, np.uint8))

        def send(**fields: str):  # type: ignore[no-untyped-def]
            data = {"file": (io.BytesIO(content), "close-up.png"), **fields}
            return self.http.post(address, data=data, content_type="multipart/form-data")

        answer = send(x="10", y="20", w="100", h="30")
        self.assertEqual(answer.status_code, 201, answer.json)
        pin = answer.json["pins"][0]
        self.assertEqual(
            (pin["kind"], pin["says"]), ("again", "the place at 10, 20 is read again from a close-up")
        )
        with self.database.session() as s:
            drop_orphans(s)
            self.assertEqual(get_blob(s, pin["name"]), content)
        self.assertEqual(send(x="10", y="20").status_code, 422)
        content = b"no picture"
        self.assertEqual(send(x="10", y="20", w="100", h="30").status_code, 422)

    def test_code_changed_by_hand_becomes_pins(self) -> None:
        project_id, build_id = self.finished()
        with self.database.session() as s:
            page = "".join(f"<p>line {i}</p>\n" for i in range(30))
            s.get_one(Build, uuid.UUID(build_id)).files = {"index.html": put_blob(s, page.encode())}
        changed = page.replace("line 4<", "line four<").replace("line 20<", "line twenty<")
        base = f"/api/projects/{project_id}"
        body = {"name": "index.html", "content": changed}
        answer = self.http.post(base + "/code", json=body)
        self.assertEqual(answer.status_code, 201)
        self.assertEqual([p["kind"] for p in answer.json["pins"]], ["code", "code"])
        self.assertIn("line four", answer.json["pins"][0]["to"])
        # one change is rejected by itself, and undo takes the whole step back
        self.assertEqual(len(self.http.delete(base + "/pins/0").json["pins"]), 1)
        self.assertEqual(len(self.http.post(base + "/pins/undo").json["pins"]), 2)
        self.assertEqual(self.http.post(base + "/pins/undo").json["pins"], [])
        same = self.http.post(base + "/code", json={"name": "index.html", "content": page})
        self.assertEqual(same.status_code, 422)
        self.assertIn("Nothing was changed", same.json["detail"])
        self.assertEqual(self.http.post(base + "/code", json={**body, "name": "a.png"}).status_code, 422)

    def test_a_value_changed_again_and_again_is_one_pin(self) -> None:
        project_id, build_id = self.finished()
        base = f"/api/projects/{project_id}"
        page = "".join(f"<p>line {i}</p>\n" for i in range(30))

        def shows(text: str) -> None:
            with self.database.session() as s:
                s.get_one(Build, uuid.UUID(build_id)).files = {"index.html": put_blob(s, text.encode())}

        def change(before: str, after: str) -> list[str]:
            shows(before)
            answer = self.http.post(base + "/code", json={"name": "index.html", "content": after})
            self.assertEqual(answer.status_code, 201)
            return [p["says"] for p in answer.json["pins"]]

        four, other = page.replace("line 4<", "line four<"), page.replace("line 4<", "line 4th<")
        self.assertEqual(len(change(page, four)), 1)
        says = change(four, other)
        self.assertEqual(len(says), 1)
        self.assertIn("line 4th", says[0])
        # changed once more before that page is there: the last word counts
        self.assertEqual(len(change(page, page.replace("line 4<", "line 04<"))), 1)
        self.assertEqual(len(self.http.post(base + "/pins/undo").json["pins"]), 1)
        # another place is another pin, after which the first may still be changed
        far = other.replace("line 20<", "line twenty<")
        self.assertEqual(len(change(other, far)), 2)
        self.assertEqual(len(change(far, far.replace("4th", "IV"))), 2)
        # lines that another pin counts on are not changed under it
        near = far.replace("4th", "IV").replace("line 5<", "line five<")
        self.assertEqual(len(change(far.replace("4th", "IV"), near)), 3)
        self.assertEqual(len(change(near, near.replace("line IV<", "line 4<"))), 4)
        # and what is as it was needs none
        self.http.post(base + "/pins/undo")
        self.http.post(base + "/pins/undo")
        self.assertEqual(len(change(far.replace("4th", "IV"), far.replace("4th", "4"))), 1)
        self.assertEqual(len(self.http.post(base + "/pins/undo").json["pins"]), 2)

    def test_the_outline_with_its_three_faces(self) -> None:
        _, build_id = self.finished()
        path = f"/api/builds/{build_id}/outline"
        self.assertEqual(self.http.get(path).status_code, 404)
        part = Part(3, -1, 0, "text", "h1", "", "Depth", Rect(1, 2, 3, 4), None, ("title",), (12, 12))
        with self.database.session() as s:
            sheet = to_json(Sheet((part,), (Finding("alt", "none", Rect(1, 2, 3, 4), 1.0, 3),)))
            s.get_one(Build, uuid.UUID(build_id)).outline = put_blob(s, json.dumps(sheet).encode())
        found = self.http.get(path).json
        self.assertEqual((found["parts"][0]["tag"], found["parts"][0]["lines"]), ("h1", [12, 12]))
        self.assertEqual(found["checks"][0]["node"], 3)
        self.assertIn("nav", found["roles"])

    def test_a_pin_that_cannot_be_used_changes_nothing(self) -> None:
        project_id, _ = self.finished()
        base = f"/api/projects/{project_id}/pins"
        rect = {"x": 1, "y": 1, "w": 5, "h": 5}
        for pin in (
            {"kind": "shout", "rect": rect}, {"kind": "retype", "rect": rect, "to": " "}, {"kind": "retype"},
            {"kind": "type", "rect": rect, "family": "Nowhere Grotesk"}, {"kind": "retype", "rect": rect, "to": "x" * 5000},
        ):  # fmt: skip
            answer = self.http.post(base, json=pin)
            self.assertEqual(answer.status_code, 422, pin)
        self.assertEqual(self.http.get(f"/api/projects/{project_id}").json["pins"], [])

    def test_what_was_read_can_be_looked_at(self) -> None:
        _, build_id = self.read_build()
        found = self.http.get(f"/api/builds/{build_id}/reading").json
        self.assertGreater(len(found["lines"]), 10)
        line = found["lines"][0]
        self.assertEqual(line["words"][0]["style"], line["style"])
        self.assertGreater(line["specimen"]["w"], line["ink"]["w"])
        self.assertLess(line["x_height"], line["cap_height"])
        self.assertIn("body", [s["name"] for s in found["styles"]])
        image = self.http.get(f"/api/builds/{build_id}/lines/0/specimen")
        self.assertEqual((image.status_code, image.mimetype), (200, "image/png"))
        self.assertEqual(self.http.get(f"/api/builds/{build_id}/lines/999/specimen").status_code, 404)

    def test_pictures_can_be_had_in_every_format_and_the_rest_is_mapped(self) -> None:
        _, build_id = self.read_build()
        base = f"/api/builds/{build_id}"
        found = self.http.get(f"{base}/reading").json
        self.assertGreater(len(found["surfaces"]), 3)
        self.assertEqual(found["palette"][0]["role"], "page")
        self.assertEqual(found["spacing"]["step"] % 1, 0)
        icon = next((i for i, c in enumerate(found["cutouts"]) if c["kind"] == "icon"), None)
        self.assertIsNotNone(icon)
        formats = self.http.get(f"{base}/cutouts/{icon}/formats").json["formats"]
        self.assertIn("png", [f["name"] for f in formats])
        self.assertEqual([f["good"] for f in formats], sorted((f["good"] for f in formats), reverse=True))
        best = formats[0]
        file = self.http.get(f"{base}/cutouts/{icon}/as/{best['name']}")
        self.assertEqual(len(file.data), best["bytes"])
        self.assertIn("default-src 'none'", file.headers["Content-Security-Policy"])
        self.assertEqual(self.http.get(f"{base}/cutouts/9999/formats").status_code, 404)
        self.assertEqual(self.http.get(f"{base}/cutouts/{icon}/as/exe").status_code, 422)
        coverage = self.http.get(f"{base}/coverage").json
        self.assertLess(coverage["unexplained"], 0.02)
        self.assertGreater(coverage["ssim"], 0.95)
        self.assertTrue(self.http.get(f"{base}/unexplained").data.startswith(b"\x89PNG"))

    def test_a_picture_is_taken_again_without_its_frame(self) -> None:
        project_id, _ = self.finished()
        path = f"/api/projects/{project_id}"
        before = self.http.get(path).json["picture"]
        pin = {"kind": "region", "rect": {"x": 100, "y": 200, "w": 50, "h": 30}, "to": "icon"}
        self.http.post(f"{path}/pins", json=pin)
        answer = self.http.post(f"{path}/picture", json={"scale": before["scale"], "trim": [40, 0, 10, 0]})
        self.assertEqual(answer.status_code, 201, answer.json)
        after = answer.json["picture"]
        self.assertEqual(
            (after["height"], after["trim"]), (before["height"] - 50 // before["scale"], [40, 0, 10, 0])
        )
        self.assertEqual(answer.json["build"]["state"], "queued")
        moved = answer.json["pins"][0]["rect"]
        self.assertEqual((moved["x"], moved["y"], moved["w"]), (100, 200 - 40 / before["scale"], 50))
        for bad in (
            {"scale": 4},
            {"scale": 1, "trim": [1, 2]},
            {"scale": 1, "trim": [-1, 0, 0, 0]},
            {"scale": 1, "trim": [99999, 0, 0, 0]},
        ):
            self.assertEqual(self.http.post(f"{path}/picture", json=bad).status_code, 422, bad)
        self.assertEqual(self.http.get(path).json["picture"], after)

    def test_a_reading_of_an_earlier_version_says_so(self) -> None:
        _, build_id = self.finished()
        self.assertEqual(self.http.get(f"/api/builds/{build_id}/reading").status_code, 404)
        with self.database.session() as s:
            s.get_one(Build, uuid.UUID(build_id)).reading = put_blob(s, b'{"version": 1}')
        answer = self.http.get(f"/api/builds/{build_id}/reading")
        self.assertEqual(answer.status_code, 409)
        self.assertIn("Build it again", answer.json["detail"])

    def test_the_families_type_can_be_set_in(self) -> None:
        found = {f["family"]: f for f in self.http.get("/api/fonts").json["families"]}
        self.assertGreater(len(found), 55)
        self.assertIn(700, found["Inter"]["weights"])

    def test_health(self) -> None:
        self.assertEqual(self.http.get("/api/health").json["status"], "ok")

    def test_a_picture_becomes_a_queued_project(self) -> None:
        answer = self.upload(demo("depth-report.png"), "depth-report.png")
        self.assertEqual(answer.status_code, 201)
        body = answer.json
        self.assertEqual(
            (body["name"], body["picture"]["width"], body["picture"]["scale"], body["build"]["state"]),
            ("depth report", 390, 2, "queued"),
        )
        self.assertEqual(self.http.get(f"/api/projects/{body['id']}").json["id"], body["id"])
        self.assertIn(body["id"], [p["id"] for p in self.http.get("/api/projects").json["projects"]])

    def test_bad_pictures_are_refused_and_nothing_is_stored(self) -> None:
        def rows() -> tuple[int, int]:
            with self.database.session() as s:
                return s.scalar(select(func.count()).select_from(Project)) or 0, s.scalar(
                    select(func.count()).select_from(Blob)
                ) or 0

        before = rows()
        for content, name, word in (
            (b"", "empty.png", "empty"),
            (b"<svg xmlns='x'/>", "drawing.svg", "SVG"),
            (b"not a picture", "notes.txt", "not a picture"),
            (png(np.zeros((90, 1, 3), np.uint8)), "thin.png", "too small"),
        ):
            with self.subTest(name):
                answer = self.upload(content, name)
                self.assertEqual((answer.status_code, answer.mimetype), (422, "application/problem+json"))
                self.assertIn(name, answer.json["detail"])
                self.assertIn(word, answer.json["detail"])
        self.assertEqual(rows(), before)

    def test_no_file_and_bad_fields(self) -> None:
        self.assertEqual(self.http.post("/api/projects").status_code, 422)
        self.assertEqual(self.upload(demo("depth-report.png"), scale="9").status_code, 422)
        self.assertEqual(self.upload(demo("depth-report.png"), width="wide").status_code, 422)

    def test_what_is_not_there_is_a_problem_document(self) -> None:
        nothing = uuid.uuid4()
        for path in (
            f"/api/projects/{nothing}",
            f"/api/builds/{nothing}",
            f"/api/builds/{nothing}/source",
            "/api/unknown",
            f"/api/builds/{nothing}/page",
        ):
            with self.subTest(path):
                answer = self.http.get(path)
                self.assertEqual((answer.status_code, answer.mimetype), (404, "application/problem+json"))

    def test_rename_and_delete(self) -> None:
        project = self.upload(demo("depth-report.png")).json
        self.assertEqual(
            self.http.patch(f"/api/projects/{project['id']}", json={"name": "Ridge"}).json["name"], "Ridge"
        )
        self.assertEqual(
            self.http.patch(f"/api/projects/{project['id']}", json={"name": ""}).status_code, 422
        )
        self.assertEqual(self.http.delete(f"/api/projects/{project['id']}").status_code, 200)
        self.assertEqual(self.http.get(f"/api/projects/{project['id']}").status_code, 404)

    def test_one_build_at_a_time_and_cancelling(self) -> None:
        project = self.upload(demo("depth-report.png")).json
        self.assertEqual(self.http.post(f"/api/projects/{project['id']}/builds").status_code, 409)
        self.assertEqual(
            self.http.post(f"/api/builds/{project['build']['id']}/cancel").json["state"], "cancelled"
        )
        self.assertEqual(self.http.post(f"/api/projects/{project['id']}/builds").status_code, 201)

    def test_a_preview_can_do_nothing_but_be_looked_at(self) -> None:
        _, build = self.finished()
        answer = self.http.get(f"/api/builds/{build}/files/index.html")
        policy = answer.headers["Content-Security-Policy"]
        self.assertTrue(policy.startswith("sandbox;"))
        self.assertIn("default-src 'none'", policy)
        self.assertNotIn("script", policy)
        self.assertEqual(answer.headers["X-Content-Type-Options"], "nosniff")
        self.assertEqual(self.http.get(f"/api/builds/{build}/files/../../etc/passwd").status_code, 404)

    def test_source_archive_and_images(self) -> None:
        import zipfile

        _, build = self.finished()
        source = self.http.get(f"/api/builds/{build}/source").json
        self.assertEqual([f["path"] for f in source["files"]], ["assets/a.png", "index.html", "styles.css"])
        first, second = (self.http.get(f"/api/builds/{build}/archive.zip").data for _ in range(2))
        self.assertEqual(first, second)
        self.assertEqual(
            sorted(zipfile.ZipFile(io.BytesIO(first)).namelist()),
            ["assets/a.png", "index.html", "styles.css"],
        )
        image = self.http.get(f"/api/builds/{build}/page")
        self.assertEqual(image.mimetype, "image/png")
        self.assertEqual(
            self.http.get(
                f"/api/builds/{build}/page", headers={"If-None-Match": image.headers["ETag"]}
            ).status_code,
            304,
        )
        of = self.http.get(f"/api/builds/{build}").json["picture_id"]
        seen, shared = self.http.get(f"/api/builds/{build}/picture"), self.http.get(f"/api/pictures/{of}")
        self.assertEqual((shared.data, shared.mimetype), (seen.data, "image/png"))
        self.assertIn("immutable", shared.headers["Cache-Control"])
        self.assertEqual(self.http.get(f"/api/pictures/{build}").status_code, 404)
        # a thumbnail is drawn when it is asked for, once
        thumbnail = self.http.get(f"/api/builds/{build}/thumbnail")
        self.assertEqual(thumbnail.mimetype, "image/png")
        with self.database.session() as s:
            drawn = s.get_one(Build, uuid.UUID(build)).thumbnail
            self.assertEqual(get_blob(s, drawn or ""), thumbnail.data)

    def test_a_lost_database_is_said_plainly(self) -> None:
        away = create_app("postgresql://neige:x@127.0.0.1:9/none").test_client()
        answer = away.get("/api/projects")
        self.assertEqual((answer.status_code, answer.json["code"]), (503, "database"))

    def test_deep_links_lead_to_the_one_page(self) -> None:
        for path in ("/", f"/projects/{uuid.uuid4()}/seam"):
            answer = self.http.get(path)
            self.assertEqual((answer.status_code, answer.mimetype), (200, "text/html"))
            self.assertIn("default-src 'self'", answer.headers["Content-Security-Policy"])
        self.assertEqual(self.http.get("/assets/nothing.js").status_code, 404)

    def test_the_openapi_document_needs_no_database_and_is_current(self) -> None:
        document = create_app("postgresql://nowhere/none").api_doc  # type: ignore[attr-defined]
        self.assertIn("/api/projects/{project_id}", json.dumps(document))
        written = Path(__file__).resolve().parents[2] / "openapi.json"
        self.assertEqual(json.loads(written.read_text()), json.loads(json.dumps(document)))


if __name__ == "__main__":
    unittest.main()
