"""Records, blobs and migrations on a real PostgreSQL."""

from __future__ import annotations

import json
import threading
import unittest
import uuid
from importlib.resources import files
from unittest import mock

from alembic import command
from alembic.config import Config
from alembic.migration import MigrationContext
from sqlalchemy import func, select, text

from neige.jobs.intake import check_picture
from neige.jobs.projects import add_project
from neige.store.database import drop_orphans, get_blob, put_blob, put_blobs
from neige.store.models import Base, Blob, Build, Picture, PinState, Project
from neige.store.pins import keep_pins, pins_of
from tests.support import ClusterTest, demo


class Store(ClusterTest):
    def test_migrating_twice_changes_nothing(self) -> None:
        self.database.migrate()
        with self.database.engine.connect() as c:
            self.assertEqual(MigrationContext.configure(c).get_current_revision(), "0006")

    def test_the_schema_is_what_the_models_say(self) -> None:
        from alembic.autogenerate import compare_metadata

        with self.database.engine.connect() as c:
            context = MigrationContext.configure(
                c,
                opts={
                    "include_name": lambda n, kind, p: (
                        kind != "table" or not (n or "").startswith("procrastinate_")
                    )
                },
            )
            self.assertEqual(compare_metadata(context, Base.metadata), [])

    def test_equal_content_is_stored_once(self) -> None:
        with self.database.session() as s:
            a, b = put_blob(s, b"snow"), put_blob(s, b"snow")
            self.assertEqual(a, b)
            self.assertEqual(s.scalar(select(func.count()).select_from(Blob).where(Blob.sha256 == a)), 1)
            self.assertEqual(get_blob(s, a), b"snow")
            self.assertIsNone(get_blob(s, "0" * 64))

    def test_a_failed_transaction_stores_nothing(self) -> None:
        with self.assertRaises(RuntimeError), self.database.session() as s:
            s.add(Project(name="half"))
            put_blob(s, b"half done")
            raise RuntimeError
        with self.database.session() as s:
            self.assertIsNone(s.scalar(select(Project).where(Project.name == "half")))

    def test_a_project_and_its_job_are_committed_together(self) -> None:
        picture = check_picture(demo("depth-report.png"), "depth-report.png")
        with self.assertRaises(RuntimeError), self.database.session() as s:
            add_project(s, "Never", picture)
            raise RuntimeError
        count = text("select count(*) from procrastinate_jobs")
        with self.database.session() as s:
            self.assertEqual(s.scalar(count), 0)
        with self.database.session() as s:
            project = add_project(s, "Report", picture)
        with self.database.session() as s:
            self.assertEqual(s.scalar(count), 1)
            build = s.scalars(select(Build).where(Build.project_id == project.id)).one()
            self.assertEqual((build.state, build.steps), ("queued", []))

    def test_each_state_of_the_pins_is_a_row_and_a_change_ends_the_redo(self) -> None:
        with self.database.session() as s:
            project = Project(name="Pins")
            s.add(project)
            s.flush()
            self.assertEqual((pins_of(s, project), pins_of(s, project, -1)), ([], None))
            for n in range(1, 4):
                keep_pins(s, project, [{"kind": "accept", "to": str(n)}])
            self.assertEqual((pins_of(s, project) or [])[0]["to"], "3")
            self.assertIsNone(pins_of(s, project, 1))
            project.pin_at -= 2
            self.assertEqual(((pins_of(s, project) or [])[0]["to"], pins_of(s, project, -1)), ("1", []))
            keep_pins(s, project, [{"kind": "accept", "to": "other"}])
            self.assertIsNone(pins_of(s, project, 1))
            with mock.patch("neige.store.pins.STATES", 3):
                for n in range(6):
                    keep_pins(s, project, [{"kind": "accept", "to": str(n)}])
            count = select(func.count()).select_from(PinState).where(PinState.project_id == project.id)
            self.assertEqual(s.scalar(count), 3)
            self.assertEqual(
                [(pins_of(s, project, by) or [{}])[0].get("to") for by in (0, -1, -2, -3)],
                ["5", "4", "3", None],
            )

    def test_a_close_up_that_only_an_earlier_state_of_the_pins_names_is_kept(self) -> None:
        with self.database.session() as s:
            project = Project(name="Close-ups")
            s.add(project)
            s.flush()
            kept, gone = put_blobs(s, [b"a close-up", b"nobody's"])
            keep_pins(
                s,
                project,
                [
                    {"kind": "again", "name": kept},
                    {"kind": "rename", "name": gone},
                    {"kind": "again", "name": None},
                ],
            )
            keep_pins(s, project, [])
            s.flush()
            drop_orphans(s)
            self.assertEqual((get_blob(s, kept), get_blob(s, gone)), (b"a close-up", None))

    def test_what_is_being_stored_is_no_orphan(self) -> None:
        with self.database.session() as s:
            digest = put_blob(s, b"left over")  # nothing refers to it
        cleared = threading.Event()

        def clear() -> None:
            with self.database.session() as s:
                drop_orphans(s)
            cleared.set()

        with self.database.session() as s:
            put_blob(s, b"left over")  # it is there already: nothing is written
            thread = threading.Thread(target=clear)
            thread.start()
            self.assertFalse(cleared.wait(0.3))
            project = Project(name="Late")
            s.add(project)
            s.flush()
            s.add(
                Picture(
                    project_id=project.id,
                    name="p",
                    original=digest,
                    preview=digest,
                    width=1,
                    height=1,
                    scale=1,
                )
            )
        thread.join(10)
        with self.database.session() as s:
            self.assertEqual(get_blob(s, digest), b"left over")

    def test_deleting_a_project_frees_its_blobs_only(self) -> None:
        with self.database.session() as s:
            keep = put_blob(s, b"lonely")
            first = add_project(s, "One", check_picture(demo("depth-report.png"), "a.png"))
            second = add_project(s, "Two", check_picture(demo("depth-report.png"), "b.png"))
            shared = first.pictures[0].original
        with self.database.session() as s:
            s.delete(s.get_one(Project, first.id))
            s.flush()
            drop_orphans(s)
            self.assertIsNotNone(get_blob(s, shared))
        with self.database.session() as s:
            s.delete(s.get_one(Project, second.id))
            for p in s.scalars(select(Project)).all():
                s.delete(p)
            s.flush()
            self.assertGreaterEqual(drop_orphans(s), 1)
        with self.database.session() as s:
            self.assertIsNone(get_blob(s, shared))
            self.assertIsNone(get_blob(s, keep))


class Migrations(ClusterTest):
    def to(self, revision: str) -> None:
        config = Config()
        config.set_main_option("script_location", str(files("neige").joinpath("store", "migrations")))
        with self.database.engine.begin() as connection:
            config.attributes["connection"] = connection
            command.downgrade(config, revision)

    def test_pins_of_before_are_rows_afterwards_and_back(self) -> None:
        states = [
            [],
            [{"kind": "accept", "to": "gap"}],
            [{"kind": "accept", "to": "gap"}, {"kind": "retype"}],
        ]
        self.to("0005")
        with self.database.engine.begin() as c:
            c.execute(
                text("insert into projects (id, name, created_at, touched_at, pin_states, pin_at) values (:id, 'Old', now(), now(), :states, 1)"),
                {"id": uuid.UUID(int=7), "states": json.dumps(states)},
            )  # fmt: skip
        self.database.migrate()
        with self.database.session() as s:
            project = s.get_one(Project, uuid.UUID(int=7))
            self.assertEqual([pins_of(s, project, by) for by in (-2, -1, 0, 1, 2)], [None, *states, None])
        self.to("0005")
        with self.database.engine.begin() as c:
            found = c.execute(text("select pin_states, pin_at from projects")).one()
            self.assertEqual((found[0], found[1]), (states, 1))
        self.database.migrate()


if __name__ == "__main__":
    unittest.main()
