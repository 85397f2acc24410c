"""What several tests share: drawn pictures with known truth, a database, a running server."""

from __future__ import annotations

import io
import os
import shutil
import tempfile
import threading
import unittest
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import cv2
import numpy as np
from PIL import Image
from werkzeug.serving import make_server

from neige.browser import draw_site
from neige.core.intake import open_picture
from neige.core.model import Drawing, Picture
from neige.demo.load import demo_pictures
from neige.store.cluster import Cluster
from neige.store.database import Database


def png(pixels: np.ndarray) -> bytes:
    return cv2.imencode(".png", np.ascontiguousarray(pixels[:, :, ::-1]))[1].tobytes()


def encode(pixels: np.ndarray, kind: str, **options: object) -> bytes:
    out = io.BytesIO()
    Image.fromarray(pixels).save(out, kind, **options)
    return out.getvalue()


def demo(file: str) -> bytes:
    return next(content for name, _, content in demo_pictures() if name == file)


@contextmanager
def site(html: str, fonts: dict[str, str] | None = None) -> Iterator[Path]:
    """A folder with index.html and catalogue fonts (CSS family: file), gone afterwards."""
    with tempfile.TemporaryDirectory() as folder:
        root = Path(folder)
        faces = ""
        source = Path(__file__).resolve().parent.parent / "src" / "neige" / "fonts"
        for family, file in (fonts or {}).items():
            shutil.copy(source / file, root / file)
            faces += f'@font-face{{font-family:"{family}";src:url("{file}");font-weight:100 900}}'
        (root / "index.html").write_text(html.replace("</style>", faces + "</style>", 1))
        yield root


def drawn(
    html: str, width: int = 800, fonts: dict[str, str] | None = None, scale: int = 1, fitted: bool = False
) -> tuple[Picture, Drawing]:
    """A page drawn by the browser, as a picture and with the browser's own measurements; its letters `fitted` to px, or not."""
    with site(html, fonts) as root:
        drawing = draw_site(str(root), width, scale=scale, fitted=fitted)
    return open_picture(png(drawing.pixels), "drawn.png", scale=scale), drawing


class ClusterTest(unittest.TestCase):
    """A class with a PostgreSQL of its own (one for all such classes of a run) and an empty, migrated database."""

    database: Database
    url: str
    _cluster: Cluster | None = None
    _url = ""
    _count = 0

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        if ClusterTest._cluster is None:
            folder = Path(tempfile.mkdtemp(prefix="neige-test-", dir="/tmp"))
            folder.chmod(0o755)
            cluster = Cluster(folder, durable=False)
            ClusterTest._url = cluster.start()
            ClusterTest._cluster = cluster
            unittest.addModuleCleanup  # noqa: B018 (the cluster outlives modules: it is stopped at exit)
            import atexit

            atexit.register(lambda: (cluster.stop(), shutil.rmtree(folder, ignore_errors=True)))
        ClusterTest._count += 1
        name = f"test_{os.getpid()}_{ClusterTest._count}"
        admin = Database(ClusterTest._url)
        with admin.engine.connect().execution_options(isolation_level="AUTOCOMMIT") as c:
            c.exec_driver_sql(f"create database {name}")
        admin.engine.dispose()
        cls.url = ClusterTest._url.rsplit("/", 1)[0] + "/" + name
        cls.database = Database(cls.url)
        cls.database.migrate()
        cls.addClassCleanup(cls.database.engine.dispose)


@contextmanager
def running(app: object) -> Iterator[str]:
    """Serve a WSGI application on loopback; its address."""
    server = make_server("127.0.0.1", 0, app, threaded=True)  # type: ignore[arg-type]
    thread = threading.Thread(target=server.serve_forever, daemon=True)
    thread.start()
    try:
        yield f"http://127.0.0.1:{server.server_port}"
    finally:
        server.shutdown()
        thread.join(5)
