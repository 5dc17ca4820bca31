"""The kernels that the program is known to ask for (`known.txt`), compiled beforehand, on all cores.

The list saves time and decides nothing: what it does not name is compiled when it is asked for, and a line that no
longer fits is passed over. `tools/list_kernels.py` writes it.
"""

from __future__ import annotations

import os
import sys
from collections.abc import Callable
from concurrent.futures import ProcessPoolExecutor, as_completed
from importlib import import_module
from multiprocessing import get_context
from pathlib import Path

from nimble_quake.kernels import store
from nimble_quake.kernels.kernel import Kernel

LIST = Path(__file__).with_name("known.txt")
PACKAGE = "nimble_quake."


def known(*, demo: bool = False) -> list[str]:
    """Return the lines of the list, the longest to compile first; demo: of the demo's first pictures only."""
    parts = LIST.read_text().split("\n\n")
    return [line for part in (parts[:1] if demo else parts) for line in part.splitlines() if line]


def kernel_of(line: str) -> tuple[Kernel, tuple[str, ...]] | None:
    """Return the kernel and the types that a line names; None where there is no such kernel any more."""
    name, *types = line.split(" ")
    module, _, function = name.rpartition(".")
    try:
        kernel = getattr(import_module(PACKAGE + module), function, None)
    except ImportError:
        return None
    return (kernel, tuple(types)) if isinstance(kernel, Kernel) else None


def compile_line(line: str) -> None:
    """Compile what a line names, where that is not done yet."""
    found = kernel_of(line)
    if found is not None:
        try:
            found[0].native(found[1])
        except Exception:  # types that the kernel takes no more: whoever asks for others compiles them
            return


def compile_known(*, demo: bool = False, notify: Callable[[int, int], None] = lambda done, total: None) -> None:
    """Compile all that is known, in processes of their own, one a core. notify: is told how many of all are done."""
    lines = known(demo=demo)
    notify(0, len(lines))
    with ProcessPoolExecutor(os.cpu_count() or 1, mp_context=get_context("spawn")) as pool:
        for done, _ in enumerate(as_completed([pool.submit(compile_line, line) for line in lines]), 1):
            notify(done, len(lines))
    if not demo:
        store.set_complete()


if __name__ == "__main__":
    for asked in sys.argv[1:]:
        compile_line(asked)
