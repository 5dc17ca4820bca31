"""Files of what was found in media, named by what the media hold: written whole or not at all, read with suspicion."""

from __future__ import annotations

import hashlib
import os
import tempfile
import zlib
from collections.abc import Mapping
from pathlib import Path
from zipfile import BadZipFile

import numpy as np
from numpy.typing import NDArray

from nimble_quake.errors import MediaError
from nimble_quake.files.plain import plain_file

MOST_BYTES = 256 * 2**20
SAMPLE = 2**20
"""Bytes at the beginning and the end of a file that its name in a store is made from."""
DAMAGES = (MediaError, OSError, ValueError, KeyError, EOFError, BadZipFile, zlib.error)
"""What reading a damaged file may raise."""


def content_name(file: str) -> str:
    """Return a name for what a file holds, wherever it lies. Raises MediaError where it cannot be read."""
    try:
        path = Path(file)
        size = plain_file(path).st_size
        found = hashlib.sha256(str(size).encode())
        with path.open("rb") as opened:
            found.update(opened.read(SAMPLE))
            opened.seek(max(0, size - SAMPLE))
            found.update(opened.read(SAMPLE))
    except (OSError, ValueError) as wrong:
        raise MediaError("the file is not there or cannot be read", where=file, cure="find it") from wrong
    return found.hexdigest()[:24]


def written(path: Path, version: int, **arrays: NDArray[np.generic]) -> None:
    """Write arrays to a file. Raises OSError."""
    handle, name = tempfile.mkstemp(prefix=".found-", suffix=".npz", dir=path.parent)
    try:
        with os.fdopen(handle, "wb") as file:
            np.savez_compressed(file, version=np.int64(version), **arrays)  # type: ignore[arg-type]  # its stub takes `allow_pickle` too
        os.chmod(name, 0o644)
        os.replace(name, path)
    finally:
        Path(name).unlink(missing_ok=True)


def loaded(path: Path, version: int, *names: str) -> Mapping[str, NDArray[np.generic]]:
    """Return the arrays of a file. Raises one of DAMAGES for one that is anything else."""
    if plain_file(path).st_size > MOST_BYTES:
        raise ValueError("too large")
    with path.open("rb") as file, np.load(file, allow_pickle=False) as opened:  # closed whatever it holds
        if int(opened["version"]) != version:
            raise ValueError("of another version")
        return {name: opened[name] for name in names}
