"""A kernel as it is written: what the compiler reads of it, and what tells it from others."""

from __future__ import annotations

from types import FunctionType
from typing import TypeAlias

Option: TypeAlias = bool | str | set[str]
"""One of numba's options for a function, or `slp` or `loops`."""


class Written:
    """A plain function over arrays, and how it is to be compiled."""

    def __init__(self, function: FunctionType, options: dict[str, Option]) -> None:
        self.function, self.options = function, options
        self.name = f"{function.__module__.removeprefix('nimble_quake.')}.{function.__qualname__}"
