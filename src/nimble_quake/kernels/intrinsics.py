"""What a kernel can say to the processor that Python has no words for."""

from __future__ import annotations


class Intrinsic:
    """One instruction; called outside a kernel it does nothing. `compiler.py` knows what each becomes."""

    def __init__(self, name: str) -> None:
        self.name = self.digest = self.source_digest = name

    def __call__(self, *args: object) -> None:
        return


prefetch = Intrinsic("prefetch")
"""prefetch(array, index): bring what lies there, in an array of one axis, into the cache; it will be read soon."""
