"""What a pixel of each sample costs at 3840 x 2160 beside 1280 x 720, and the memory that takes.

    python -m benchmarks.four_k [NAME ...]

Each sample has a process of its own; both sizes are made by turns, a few frames in a row, as when rendering.
"""

from __future__ import annotations

import json
import os
import resource
import statistics
import subprocess
import sys
import tempfile
import time

os.environ["NIMBLE_QUAKE_HOME"] = tempfile.mkdtemp()

from nimble_quake.render.engine import Engine
from nimble_quake.render.frames import frame_picture
from nimble_quake.render.services import frame_job
from nimble_quake.samples import sample_path, samples
from nimble_quake.shotfile.files import read_shot

SMALL, LARGE = 1280, 3840
ROUNDS = 3
SOME = {SMALL: 6, LARGE: 3}
"""Frames in a row at each size; a clip's next frame is made ahead at the size asked for last."""


def measured(name: str) -> dict[str, float]:
    """Return ns a pixel at both sizes (median of rounds) and the most memory held, in MB."""
    path = sample_path(name)
    assert path is not None
    shot, engine = read_shot(path), Engine()
    taken: dict[int, list[float]] = {SMALL: [], LARGE: []}
    middle = int(shot.length) // 2
    for turn in range(ROUNDS + 1):
        for width, found in taken.items():
            scale = width / shot.width
            pixels = width * max(1, round(shot.height * scale))
            for n in range(SOME[width]):
                engine.last_frames.clear()
                engine.cache.clear()  # what stands still is made anew too: of the large size less could be remembered
                began = time.perf_counter()
                frame_picture(frame_job(engine, shot, (middle + n + turn * 8) % int(shot.length)), scale)
                if turn and n:
                    found.append((time.perf_counter() - began) / pixels * 1e9)
    small, large = (statistics.median(found) for found in taken.values())
    most = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1e3
    return {"small": small, "large": large, "ratio": large / small, "memory": most}


def main() -> None:
    names = sys.argv[1:] or samples()
    if names[0] == "--one":
        print(json.dumps(measured(names[1])))
        return
    for name in names:
        command = [sys.executable, "-m", "benchmarks.four_k", "--one", name]
        told = json.loads(subprocess.run(command, check=True, capture_output=True, text=True).stdout)
        good = "ok  " if told["ratio"] <= 1.05 and told["memory"] <= 2500 else "OVER"
        print(
            f"{good} {name:28} {told['small']:6.0f} -> {told['large']:6.0f} ns a pixel  x {told['ratio']:.2f}"
            f"   {told['memory']:5.0f} MB",
            flush=True,
        )


if __name__ == "__main__":
    main()
