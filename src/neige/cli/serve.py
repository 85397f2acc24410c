"""`neige serve`: the private database, one worker and the server, started together and stopped together."""

from __future__ import annotations

import os
import signal
import subprocess
import sys
import time
import urllib.request
from pathlib import Path
from types import FrameType

from neige.core.errors import NeigeError
from neige.store.cluster import Cluster, free_port
from neige.store.database import Database

READY = 60.0  # seconds to wait for the first answer


def serve(folder: Path, port: int, demo: bool) -> int:
    """Run until Ctrl-C or SIGTERM. A worker or server that dies is started again."""
    own = os.environ.get("NEIGE_DATABASE_URL")
    cluster = None if own else Cluster(folder)
    url = own or cluster.start()  # type: ignore[union-attr]
    children: dict[str, subprocess.Popen[bytes]] = {}
    ending = False

    def end(signum: int, frame: FrameType | None) -> None:
        nonlocal ending
        ending = True

    signal.signal(signal.SIGINT, end)
    signal.signal(signal.SIGTERM, end)
    try:
        database = Database(url)
        database.migrate()
        if demo:
            from neige.demo.load import load_demo

            added = load_demo(database)
            if added:
                print(f"demo: {added} projects added", flush=True)
        chosen = free_port(port)
        environment = {**os.environ, "NEIGE_DATABASE_URL": url}
        commands = {
            "worker": [sys.executable, "-m", "neige.jobs.worker"],
            "server": [sys.executable, "-m", "gunicorn", "--worker-class", "gthread", "--workers", "1", "--threads", "64", "--bind", f"127.0.0.1:{chosen}", "--graceful-timeout", "3", "--timeout", "120", "--log-level", "warning", "neige.web.app:application()"],
        }  # fmt: skip
        for name in ("server", "worker"):
            children[name] = subprocess.Popen(commands[name], env=environment, start_new_session=True)
            if name == "server":  # the worker would only slow the first answer down
                address = f"http://127.0.0.1:{chosen}/"
                _await(address + "api/health", children["server"])
        print(f"ready: {address}", flush=True)
        while not ending:
            time.sleep(0.3)
            for name, child in children.items():
                if child.poll() is not None and not ending:
                    print(
                        f"{name} ended with {child.returncode}; starting it again",
                        file=sys.stderr,
                        flush=True,
                    )
                    time.sleep(1.0)
                    children[name] = subprocess.Popen(commands[name], env=environment, start_new_session=True)
        return 0
    finally:
        for name in ("server", "worker"):
            if name in children:
                _stop(children[name])
        if cluster:
            cluster.stop()


def _await(address: str, server: subprocess.Popen[bytes]) -> None:
    until = time.monotonic() + READY
    while time.monotonic() < until:
        if server.poll() is not None:
            break
        try:
            with urllib.request.urlopen(address, timeout=2) as answer:
                if answer.status == 200:
                    return
        except OSError:
            time.sleep(0.15)
    raise NeigeError("the server did not answer; see the messages above")


def _stop(child: subprocess.Popen[bytes]) -> None:
    if child.poll() is None:
        child.terminate()
        try:
            child.wait(12)
        except subprocess.TimeoutExpired:
            child.kill()
            child.wait(5)
