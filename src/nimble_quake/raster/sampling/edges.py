"""What lies beyond a picture's border."""

from __future__ import annotations

from nimble_quake.kernels import kernel

EDGES = ("empty", "hold", "wrap", "mirror")


@kernel(inline="always")
def index_of(index: int, size: int, edge: int) -> int:
    """The index the edge rule puts in place of one outside 0...size-1; -1 for nothing there."""
    if 0 <= index < size:
        return index
    if edge == 0:
        return -1
    if edge == 1:
        return 0 if index < 0 else size - 1
    if -size <= index < 2 * size:  # once beyond the border, as most are: no division
        if edge == 2:
            return index + size if index < 0 else index - size
        return -1 - index if index < 0 else 2 * size - 1 - index
    if edge == 2:
        return index % size
    index = index % (2 * size)
    return index if index < size else 2 * size - 1 - index
