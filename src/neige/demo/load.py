"""Load the demo projects once."""

from __future__ import annotations

from importlib.resources import files

from sqlalchemy import select

from neige.jobs.intake import check_picture
from neige.jobs.projects import add_project
from neige.store.database import Database
from neige.store.models import Project

# file, project name; the last is on top of the shelf
DEMO = (
    ("bulletin-article.png", "Bulletin 14"),
    ("depth-report.png", "Report a depth"),
    ("station-dashboard.png", "Station dashboard"),
    ("firnwatch-landing.png", "Firnwatch landing page"),
)


def demo_pictures() -> list[tuple[str, str, bytes]]:
    """(file name, project name, content) of every demo picture."""
    folder = files("neige").joinpath("demo", "pictures")
    return [(file, name, folder.joinpath(file).read_bytes()) for file, name in DEMO]


def load_demo(database: Database) -> int:
    """Add the demo projects if there are no projects at all, and queue their builds; how many were added."""
    with database.session() as s:
        if s.scalars(select(Project.id).limit(1)).first() is not None:
            return 0
        for file, name, content in demo_pictures():
            add_project(s, name, check_picture(content, file))
        return len(DEMO)
