"""Write src/nimble_quake/kernels/known.txt: the kernels that the program is known to ask for, and for which arguments.

    python tools/list_kernels.py

Those of the demo's first pictures come first, each part by how long it takes to compile, so that all cores end
together. Run it when `tests/session/test_warm_up.py` says that the list is not what is asked for.
"""

from __future__ import annotations

import os
import tempfile
import time
from pathlib import Path

os.environ["QT_QPA_PLATFORM"] = "offscreen"
os.environ["NIMBLE_QUAKE_HOME"] = tempfile.mkdtemp()

from nimble_quake.desktop.app import save_picture
from nimble_quake.kernels import compiler
from nimble_quake.kernels.kernel import Kernel
from nimble_quake.kernels.known import LIST
from nimble_quake.samples import sample_path
from nimble_quake.session.warm_up import asked_for, warm_up


def main() -> None:
    """Ask for all kernels, compile each to see how long it takes, and write the list."""
    sample = sample_path()
    assert sample is not None
    with asked_for() as demo:
        save_picture(sample, Path(tempfile.mkdtemp()) / "demo.png")
    with asked_for() as rest:
        warm_up()
    taken: dict[tuple[Kernel, tuple[str, ...]], float] = {}
    for kernel, types in (*demo, *rest):
        began = time.perf_counter()
        compiler.compiled(kernel, types)
        taken[kernel, types] = time.perf_counter() - began
    lines = []
    for part in (demo, [key for key in rest if key not in demo]):
        lines += [kernel.line(types) for kernel, types in sorted(set(part), key=lambda key: -taken[key])]
        lines.append("")
    LIST.write_text("\n".join(lines).rstrip() + "\n")
    print(f"{len(demo)} for the demo, {len(taken)} in all, {sum(taken.values()):.0f} s on one core")


if __name__ == "__main__":
    main()
