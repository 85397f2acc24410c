"""Making a project from a picture."""

from __future__ import annotations

from sqlalchemy.orm import Session

from neige.jobs.intake import NewPicture
from neige.jobs.queue import defer_build
from neige.store.database import put_blob
from neige.store.models import Build, Picture, Project


def add_project(s: Session, name: str, picture: NewPicture) -> Project:
    """Store a project with its picture and queue its first build, all in the session's transaction."""
    project = Project(name=name)
    s.add(project)
    s.flush()
    row = add_picture(s, project, picture)
    build = Build(project_id=project.id, picture_id=row.id)
    s.add(build)
    s.flush()
    defer_build(s, build)
    s.refresh(project)
    return project


def add_picture(s: Session, project: Project, picture: NewPicture) -> Picture:
    """Store a picture as the project's last one."""
    row = Picture(
        project_id=project.id, name=picture.name, original=put_blob(s, picture.content), preview=put_blob(s, picture.preview),
        width=round(picture.width), height=round(picture.height), scale=picture.scale, trim=list(picture.trim),
    )  # fmt: skip
    s.add(row)
    s.flush()
    return row
