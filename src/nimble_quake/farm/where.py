"""Which machines render."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path


@dataclass(frozen=True)
class Where:
    """The machines: at an address, or so many workers here. keys: a folder made by `keys.make_keys`."""

    address: str = ""
    workers: int = 0
    keys: Path | None = None
    plain: bool = False
