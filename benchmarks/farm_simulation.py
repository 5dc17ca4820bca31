"""How long 10,000 frames at 4K take on 1 to 1,000 machines: a simulation from measured times, and where it saturates.

    python -m benchmarks.farm_simulation            with the times of docs/many-machines.md
    python -m benchmarks.farm_simulation --measure  with times measured here

What is simulated: a segment of 48 frames is one task; a machine gets two ahead; times vary from segment to segment as
measured; what comes back passes one network link; the one who asked decodes each segment, renders one frame in
sixty-four again to compare it, and joins all at the end.
"""

from __future__ import annotations

import heapq
import sys
import tempfile
import time
from collections.abc import Callable
from dataclasses import dataclass
from functools import partial
from pathlib import Path

import numpy as np

FRAMES, SEGMENT = 10_000, 48
SHARE = 1 / 64
"""Of all frames so many are rendered by the one who asks too, to be compared: `farm.sampling`."""
COUNTS = (1, 2, 5, 10, 20, 50, 100)


@dataclass(frozen=True)
class Times:
    """Seconds and bytes. `spread`: standard deviation of a segment's time, as a share of it."""

    frame: float = 0.31
    """To compute a frame."""
    encode: float = 0.26
    """To encode it, where it is rendered too: while the next one is computed."""
    together: float = 0.588
    """For both, side by side."""
    spread: float = 0.09
    start: float = 3.0
    segment_bytes: float = 2.3e6
    check: float = 1.2
    """To decode a segment."""
    join_a_frame: float = 0.0004
    link: float = 117e6
    task: float = 0.002


def simulate(count: int, times: Times, media_bytes: float = 0.0) -> tuple[float, float]:
    """Return seconds from the order to the file, and the share of that which the machines were at work.

    media_bytes: sent to each machine, where they share no disk.
    """
    rng = np.random.Generator(np.random.PCG64(7))
    sent = [(n + 1) * media_bytes / times.link for n in range(count)]
    free = [(max(times.start, at), machine) for machine, at in enumerate(sent)]
    heapq.heapify(free)
    ended, worked, segments = [], 0.0, -(-FRAMES // SEGMENT)
    for _ in range(segments):
        at, machine = heapq.heappop(free)
        took = SEGMENT * times.together * max(0.3, rng.normal(1.0, times.spread)) + times.task
        worked += took
        ended.append(at + took)
        heapq.heappush(free, (at + took, machine))
    link, asker, samples = 0.0, 0.0, FRAMES * SHARE / segments
    for at in sorted(ended):
        link = max(link, at) + times.segment_bytes / times.link
        asker = max(asker, link) + times.check + samples * times.frame
    whole = asker + FRAMES * times.join_a_frame
    return whole, worked / (whole * count)


def measure() -> Times:
    """Return the times of this machine: the demo shot at 3840 x 2160 to MP4."""
    from nimble_quake.export.checking import Pattern
    from nimble_quake.export.order import Order, frame_for, prepared_frame
    from nimble_quake.export.rendering import render_part
    from nimble_quake.export.writers import Part
    from nimble_quake.render.engine import Engine
    from nimble_quake.samples import sample_path
    from nimble_quake.shotfile.files import read_shot

    path = sample_path("lantern-row")
    assert path is not None
    shot, engine = read_shot(path), Engine()
    with tempfile.TemporaryDirectory() as name:
        order = Order(shot, Path(name) / "o.mp4", 0, shot.length - 1, 3.0)
        frame_for(engine, order, 0)
        parts = [Part(Path(name) / f"{first}.mp4", tuple(range(first, first + 12))) for first in (0, 48, 96)]
        taken = [_seconds(partial(render_part, order, engine, part)) / 12 for part in parts]
        size = sum(part.file.stat().st_size for part in parts) / (12 * len(parts)) * SEGMENT
        frame = _seconds(lambda: [frame_for(engine, order, number) for number in range(24, 36)]) / 12
        target, pattern = order.target(), Pattern.of(order)
        prepared = [prepared_frame(engine, order, number, target)[0] for number in range(24, 36)]

        def write() -> None:
            writer = order.kind.opens(order.target())
            for number, each in enumerate(prepared):
                writer.write(number, each)
            writer.finish()

        encode = _seconds(write) / 12

        def look() -> None:
            for part in parts:
                pattern.check(part, part.file)

        check = _seconds(look) / 36 * SEGMENT
    return Times(frame, encode, float(np.mean(taken)), float(np.std(taken) / np.mean(taken)), 3.0, size, check)


def _seconds(work: Callable[[], object]) -> float:
    """How long something takes."""
    began = time.perf_counter()
    work()
    return time.perf_counter() - began


if __name__ == "__main__":
    measured = measure() if "--measure" in sys.argv else Times()
    print(measured)
    print("| machines | hours:minutes | faster than one | machines at work | with 200 MB of media sent to each |")
    print("|---|---|---|---|---|")
    alone = simulate(1, measured)[0]
    for count in COUNTS:
        seconds, share = simulate(count, measured)
        sending = simulate(count, measured, 200e6)[0]
        shown = [f"{int(t) // 3600}:{int(t) % 3600 // 60:02d}:{int(t) % 60:02d}" for t in (seconds, sending)]
        print(f"| {count} | {shown[0]} | {alone / seconds:.1f} × | {share:.0%} | {shown[1]} |")
