"""Server-sent events: one LISTEN connection a process, fanned out to every open stream."""

from __future__ import annotations

import json
import logging
import queue
import threading
import time
from collections.abc import Iterator

import psycopg

from neige.jobs.queue import CHANNEL
from neige.store.database import plain_url

BEAT = 8.0  # seconds between comments that show a dead client
MAX_STREAMS = 40  # of a process; more get 503
log = logging.getLogger(__name__)


class Events:
    """Started by the first stream. When PostgreSQL goes away it is asked again every second; clients then refetch."""

    def __init__(self, url: str) -> None:
        self.url = plain_url(url)
        self._streams: set[queue.SimpleQueue[str]] = set()
        self._lock = threading.Lock()
        self._thread: threading.Thread | None = None

    def full(self) -> bool:
        return len(self._streams) >= MAX_STREAMS

    def stream(self) -> Iterator[str]:
        mine: queue.SimpleQueue[str] = queue.SimpleQueue()
        with self._lock:
            self._streams.add(mine)
            if self._thread is None:
                self._thread = threading.Thread(target=self._listen, name="events", daemon=True)
                self._thread.start()
        try:
            yield "retry: 1000\n\nevent: hello\ndata: {}\n\n"
            while True:
                try:
                    yield f"event: build\ndata: {mine.get(timeout=BEAT)}\n\n"
                except queue.Empty:
                    yield ": beat\n\n"
        finally:
            with self._lock:
                self._streams.discard(mine)

    def _listen(self) -> None:
        lost = False
        while True:
            try:
                with psycopg.connect(self.url, autocommit=True, connect_timeout=5) as connection:
                    connection.execute(f"listen {CHANNEL}")
                    if lost:
                        self._send(json.dumps({"build": None}))  # whatever was missed: look again
                        lost = False
                    while True:
                        for note in connection.notifies(timeout=5.0):
                            self._send(note.payload)
                        connection.execute("select 1")
            except psycopg.Error as e:
                lost = True
                log.warning("the event listener lost PostgreSQL (%s); trying again", type(e).__name__)
                time.sleep(1.0)

    def _send(self, payload: str) -> None:
        with self._lock:
            for stream in self._streams:
                stream.put(payload)
