"""How a command says how far it is, on stderr: with bars, in plain lines, as JSON for programs, or not at all."""

from __future__ import annotations

import sys
from collections.abc import Iterator
from contextlib import AbstractContextManager, contextmanager, nullcontext

from nimble_quake.cli.said import JsonLines, Lines, Said
from nimble_quake.errors import BadInput, one_of
from nimble_quake.kernels import notified_when_compiling

HELP = "bars, plain, json (a line a frame) or none; left out, bars on a terminal and plain lines elsewhere"
LINES = {"plain": Lines, "json": JsonLines, "none": Said}
WAYS = ("bars", *LINES)


@contextmanager
def progress_shown(way: str = "") -> Iterator[Said]:
    """What says how far a command is, in a way of `WAYS`; without one bars on a terminal and lines elsewhere.

    Raises BadInput.
    """
    way = way or ("bars" if sys.stderr.isatty() else "plain")
    if way not in WAYS:
        raise BadInput(f'"{way}" is no way to say it', where="--progress", cure=one_of(WAYS, way))
    with _bars() if way == "bars" else nullcontext(LINES[way]()) as said, notified_when_compiling(said.compiles):
        yield said


def _bars() -> AbstractContextManager[Said]:
    from nimble_quake.cli.bars import bars_shown  # only who looks at bars waits for what draws them

    return bars_shown()
