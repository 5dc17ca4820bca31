"""Compiled kernels are written by one process at a time."""

from __future__ import annotations

import fcntl
import importlib.util
import subprocess
import sys
from pathlib import Path

import numpy as np
import pytest
from numba.core import caching

from nimble_quake.raster import rows
from nimble_quake.raster.kernel_cache import LOCK

KERNEL = "from numba import njit\n\n\n@njit(cache=True)\ndef double(x):\n    return x + x\n"


def test_writing_is_locked(tmp_path: Path, monkeypatch: pytest.MonkeyPatch):
    """While a kernel is written, another process that would write one waits."""
    (tmp_path / "doubling.py").write_text(KERNEL, encoding="utf-8")
    spec = importlib.util.spec_from_file_location("doubling", tmp_path / "doubling.py")
    assert spec is not None
    assert spec.loader is not None
    module = importlib.util.module_from_spec(spec)
    spec.loader.exec_module(module)
    plain, seen = caching.IndexDataCacheFile.save, []

    def save(self, key, data):
        with (tmp_path / "__pycache__" / LOCK).open("w") as other, pytest.raises(BlockingIOError):
            fcntl.flock(other, fcntl.LOCK_EX | fcntl.LOCK_NB)
        seen.append(key)
        plain(self, key, data)

    monkeypatch.setattr(caching.IndexDataCacheFile, "save", save)
    assert module.double(np.arange(3)).tolist() == [0, 2, 4]
    assert module.double(np.arange(3.0)).tolist() == [0, 2, 4]
    assert len(seen) == 2
    assert rows.THREADS >= 1
    with (tmp_path / "__pycache__" / LOCK).open("w") as free:
        fcntl.flock(free, fcntl.LOCK_EX | fcntl.LOCK_NB)


def test_linear_algebra_is_not_loaded_for_kernels_and_can_be_loaded_afterwards():
    code = (
        "import sys; from nimble_quake.raster import blend; import numpy as np; blend.flat((4, 4), (1.0, 0, 0, 1)); "
        "assert 'scipy.linalg' not in sys.modules; import scipy.linalg; assert scipy.linalg.norm([3, 4]) == 5"
    )
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=False)
    assert done.returncode == 0, done.stderr
