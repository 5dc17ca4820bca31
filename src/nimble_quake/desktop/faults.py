"""The last net: an error that nobody caught ends no window. It is told in one line, with a report file beside the log.

Qt calls our slots from C++; PyQt ends the program when one of them raises, unless `sys.excepthook` is replaced.
"""

from __future__ import annotations

import contextlib
import sys
import threading
import time
import traceback
from collections.abc import Callable, Iterator
from pathlib import Path
from types import TracebackType

from nimble_quake import __version__
from nimble_quake.errors import NimbleQuakeError
from nimble_quake.session.storage.preferences import folder

MOST_REPORTS = 20
Tell = Callable[[str], None]


def report_folder() -> Path:
    """Return the folder the reports are written to."""
    return folder("state") / "reports"


def write_report(text: str) -> Path | None:
    """Write a report and return its file; None where the disk takes none. The oldest ones go."""
    with contextlib.suppress(OSError):
        report_folder().mkdir(parents=True, exist_ok=True)
        old = sorted(report_folder().glob("fault-*.txt"))
        for path in old[: len(old) - MOST_REPORTS + 1]:
            path.unlink(missing_ok=True)
        path = report_folder() / f"fault-{time.strftime('%Y%m%d-%H%M%S')}-{time.monotonic_ns() % 1000:03d}.txt"
        path.write_text(f"Nimble Quake {__version__}, Python {sys.version.split()[0]}\n\n{text}", encoding="utf-8")
        return path
    return None


def line_of(wrong: BaseException, report: Path | None) -> str:
    """Return what is said of an error: its own line where it has one, else that the fault is ours."""
    if isinstance(wrong, NimbleQuakeError):
        return wrong.line()
    where = f"; a report is in {report}" if report is not None else ""
    return f"that failed in Nimble Quake itself ({type(wrong).__name__}), your work is still here{where}"


@contextlib.contextmanager
def reported_faults() -> Iterator[None]:
    """Tell of an error in here as of one that nobody caught, and go on."""
    try:
        yield
    except Exception as wrong:
        sys.excepthook(type(wrong), wrong, wrong.__traceback__)


def _forget_last() -> None:
    """Let go of the error that Python keeps for debuggers: it holds the window, and all that was under way."""
    for name in ("last_type", "last_value", "last_traceback"):
        if name in vars(sys):
            setattr(sys, name, None)


def catch_faults(tell: Tell, keep: Callable[[], object]) -> None:
    """Tell every error that nobody caught, and have the work kept first. `tell` is called on the failing thread."""
    busy = threading.local()

    def hook(kind: type[BaseException], wrong: BaseException, trace: TracebackType | None) -> None:
        if issubclass(kind, KeyboardInterrupt):
            sys.__excepthook__(kind, wrong, trace)
            return
        if getattr(busy, "inside", False):  # an error while telling of an error
            return
        busy.inside = True
        try:
            report = None
            if not isinstance(wrong, NimbleQuakeError):
                report = write_report("".join(traceback.format_exception(kind, wrong, trace)))
                with contextlib.suppress(Exception):
                    keep()
            with contextlib.suppress(Exception):
                tell(line_of(wrong, report))
        finally:
            busy.inside = False
            _forget_last()

    sys.excepthook = hook
    threading.excepthook = lambda notify: hook(
        notify.exc_type, notify.exc_value or notify.exc_type(), notify.exc_traceback
    )  # a thread of ours says it too
