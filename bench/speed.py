"""Time each stage on the demo pictures: `python -m bench.speed [FILE...]`.

Prints seconds per stage of a picture's second build in a warm process, the whole, its ratio to one warm full-page draw of the
same page, the whole of the first build ("first": the fonts of that page were not loaded yet), and the peak memory of the process.
"""

from __future__ import annotations

import resource
import sys
import time
from pathlib import Path

from neige.browser import draw_page
from neige.core.intake import open_picture
from neige.core.outline import arrange
from neige.core.pipeline import settle
from neige.core.proof import prove
from neige.core.reading import read
from neige.core.writer import write
from neige.core.writer.cutouts import Encoded
from neige.demo.load import demo_pictures


def measure(name: str, content: bytes) -> dict[str, float]:
    """Seconds of each stage of one build."""
    times: dict[str, float] = {}
    last = time.perf_counter()

    def lap(stage: str) -> None:
        nonlocal last
        now = time.perf_counter()
        times[stage] = times.get(stage, 0.0) + now - last
        last = now

    picture = open_picture(content, name)
    lap("intake")
    reading = read(picture)
    lap("read")
    outline = arrange(reading)
    lap("outline")
    encoded: Encoded = {}
    outline, _, _ = settle(outline, reading, picture, draw_page, lambda stage, what: None, encoded)
    lap("correct")
    page = write(outline, reading, picture, encoded=encoded)
    lap("write")
    drawing = draw_page(page, picture.width)
    lap("draw")
    prove(reading, picture, drawing)
    lap("prove")
    times["whole"] = sum(times.values())
    start = time.perf_counter()
    draw_page(page, picture.width)
    times["ratio"] = times["whole"] / (time.perf_counter() - start)
    return times


def main() -> None:
    files = [(Path(f).name, Path(f).read_bytes()) for f in sys.argv[1:]] or [
        (f, c) for f, _, c in demo_pictures()
    ]
    measure(*files[0])
    rows = []
    for name, content in files:
        first = measure(name, content)["whole"]
        rows.append((name, measure(name, content) | {"first": first}))
    columns = list(rows[0][1])
    print("| picture | " + " | ".join(columns) + " |\n|" + "---|" * (len(columns) + 1))
    for name, times in rows:
        print(
            f"| {name} | "
            + " | ".join(f"{times[c]:.0f}x" if c == "ratio" else f"{times[c]:.2f}" for c in columns)
            + " |"
        )
    print(
        f"\npeak memory of the process: {resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1e6:.2f} GB (Chromium is apart)"
    )


if __name__ == "__main__":
    main()
