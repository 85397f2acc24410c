"""`python -m neige.jobs.worker`: one worker process. Needs only NEIGE_DATABASE_URL."""

from __future__ import annotations

import asyncio
import logging
import os
import sys

from neige.jobs.queue import HEARTBEAT, STALLED, queue, worker_connector


async def work(url: str) -> None:
    with queue.replace_connector(worker_connector(url)):
        async with queue.open_async():
            await queue.run_worker_async(
                concurrency=2, update_heartbeat_interval=HEARTBEAT, stalled_worker_timeout=STALLED, shutdown_graceful_timeout=5.0, fetch_job_polling_interval=2.0, delete_jobs="successful",
            )  # fmt: skip


def main() -> None:
    logging.basicConfig(
        level=logging.INFO, format="%(asctime)s %(name)s %(levelname)s %(message)s", stream=sys.stderr
    )
    for chatty in ("procrastinate", "fontTools"):
        logging.getLogger(chatty).setLevel(logging.WARNING)
    asyncio.run(work(os.environ["NEIGE_DATABASE_URL"]))


if __name__ == "__main__":
    main()
