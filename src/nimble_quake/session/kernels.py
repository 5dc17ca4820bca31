"""Compiling kernels aside: all of them on a new machine, while one works; and later those that nobody foresaw.

Numba's tables take 60 to 90 MB at the first kernel, some more at each further one, and never give them back; and while
it works, no other thread of Python does: a window would stutter for seconds.
"""

from __future__ import annotations

import subprocess
import sys
import threading

from nimble_quake.kernels import compile_elsewhere
from nimble_quake.kernels.store import complete
from nimble_quake.session.work import Work

TITLE = "Compiling for this machine, once"
LONGEST = 120.0
"""Seconds that a process is waited for which compiles one kernel; after that it is compiled here."""


def compile_aside() -> Work | None:
    """Start to compile in a process of its own at low priority; None where it was done before."""
    if complete():
        return None
    work = Work(TITLE, 1)
    threading.Thread(target=_compile, args=(work,), name="compiling", daemon=True).start()
    return work


def _compile(work: Work) -> None:
    words = [sys.executable, "-m", "nimble_quake.session.warm_up", "--low"]
    try:
        with subprocess.Popen(words, stdout=subprocess.PIPE, stderr=subprocess.DEVNULL, text=True) as process:
            assert process.stdout is not None
            for line in process.stdout:
                done, total = line.split()
                work.done, work.total = int(done), int(total)
                if work.stopped:
                    process.kill()
    except (OSError, ValueError):
        return  # what is needed is compiled when it is needed
    finally:
        work.end()


def compile_apart() -> None:
    """Compile kernels in processes of their own from now on: for programs that run for hours."""
    compile_elsewhere(compile_one)


def compile_one(line: str) -> None:
    """Have one kernel compiled and stored by another process. What fails is not said: whoever asked finds nothing."""
    if not complete():  # until all that is known is compiled, many are asked for at once
        return
    words, nowhere = [sys.executable, "-m", "nimble_quake.kernels.known", line], subprocess.DEVNULL
    try:
        subprocess.run(words, stdin=nowhere, stdout=nowhere, stderr=nowhere, timeout=LONGEST, check=False)
    except (OSError, subprocess.TimeoutExpired):
        return
