"""Array work beside the rest: in a process of its own, so that two cores are used. A thread would not do: most of it is Python's own
work, and two such threads take longer than one after the other."""

from __future__ import annotations

import threading
from collections.abc import Callable
from concurrent.futures import BrokenExecutor, Executor, Future, ThreadPoolExecutor
from typing import ParamSpec, TypeVar

from loky import ProcessPoolExecutor

IDLE = 60  # s without work after which the process ends by itself; it is started again when there is some
ONE_CORE = {"OPENBLAS_NUM_THREADS": "1", "OMP_NUM_THREADS": "1"}  # the other is this process's
P = ParamSpec("P")
T = TypeVar("T")

_kept: list[Executor] = []  # the process that runs, if one does
_starting = threading.Lock()


def warm() -> None:
    """Start the process without waiting for it: loading what it works with takes seconds."""
    beside(_load)


def beside(work: Callable[P, T], *args: P.args, **kwargs: P.kwargs) -> Future[T]:
    """What `work`, a function of a module, makes of its arguments, or its error. If its process is killed or cannot be started,
    it is done in this one."""

    def done() -> T:
        process = None
        try:
            process = _process()
            result: T = process.submit(work, *args, **kwargs).result()
        except (BrokenExecutor, OSError):
            _forget(process)
            return work(*args, **kwargs)
        return result

    waiting = ThreadPoolExecutor(1)
    result = waiting.submit(done)
    waiting.shutdown(wait=False)
    return result


def _process() -> Executor:
    with _starting:
        if not _kept:
            _kept.append(ProcessPoolExecutor(max_workers=1, timeout=IDLE, initializer=_load, env=ONE_CORE))
        return _kept[0]


def _forget(process: Executor | None) -> None:
    """The next work gets another process."""
    with _starting:
        if process in _kept:
            _kept.clear()


def _load() -> None:
    import cv2

    import neige.core.reading.surfaces  # noqa: F401
    from neige.core.reading.type.catalogue import catalogue

    catalogue()
    cv2.setNumThreads(1)
