"""Where compiled kernels lie on disk: a file each, named by all that it depends on, whole or not there at all."""

from __future__ import annotations

import fcntl
import hashlib
import importlib.util
import os
import platform
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from dataclasses import dataclass
from functools import cache
from pathlib import Path

import llvmlite
import llvmlite.binding as llvm

SHIPPED = Path(__file__).with_name("objects")
"""Kernels that came with the program, for processors of the last ten years."""
BASELINE = "x86-64-v3"
BASELINE_FEATURES = ("sse4.2", "avx", "avx2", "bmi", "bmi2", "f16c", "fma", "lzcnt", "movbe", "popcnt")
"""What processors of that level have, as LLVM calls it."""
DONE = "all.done"


@dataclass(frozen=True)
class Object:
    """An object file, the symbol of its function, and the type of what it gives back (see `abi`)."""

    symbol: str
    result: str
    code: bytes


def host_features() -> str:
    """Return the features of this processor, as LLVM takes them."""
    return str(llvm.get_host_cpu_features().flatten())


@cache
def host() -> str:
    """Return the name of this processor, with all its features, and of what compiles for it."""
    by = f"{_numba()} {llvmlite.__version__}"
    features = hashlib.sha256(f"{host_features()} {by}".encode()).hexdigest()[:8]
    return f"{llvm.get_host_cpu_name()}-{features}"


def _numba() -> str:
    """What tells one version of numba from another: neither it nor what reads packages' notes is loaded for that."""
    found = importlib.util.find_spec("numba")
    file = Path(found.origin).with_name("_version.py") if found is not None and found.origin else None
    if file is not None and file.is_file():
        return file.read_text(encoding="utf-8")
    from importlib.metadata import version  # what reads packages' notes, after all

    return version("numba")


@cache
def shipped() -> Path | None:
    """Return the folder of kernels that came along, if this processor runs them."""
    folder = SHIPPED / BASELINE
    if platform.machine() != "x86_64" or not folder.is_dir():
        return None
    features = llvm.get_host_cpu_features()
    return folder if all(features.get(name) for name in BASELINE_FEATURES) else None


_place: list[Path] = []
"""Where kernels are put that are compiled to be handed on."""


def compile_to_ship(folder: Path) -> None:
    """Compile for all processors of the baseline from now on, into a folder. Before the first kernel is compiled."""
    os.environ["NUMBA_CPU_NAME"] = BASELINE
    os.environ["NUMBA_CPU_FEATURES"] = ",".join(f"+{name}" for name in BASELINE_FEATURES)
    _place[:] = [folder / BASELINE]
    folder.joinpath(BASELINE).mkdir(parents=True, exist_ok=True)


def to_ship() -> bool:
    """Return whether kernels are compiled to be handed on."""
    return bool(_place)


def own() -> Path:
    """Return the folder of what is compiled here."""
    return _place[0] if _place else _beside()


@cache
def _beside() -> Path:
    """Beside the program, or in the user's cache where that is closed."""
    beside = Path(__file__).with_name("__pycache__") / host()
    try:
        beside.mkdir(parents=True, exist_ok=True)
        if os.access(beside, os.W_OK):
            return beside
    except OSError:
        pass
    cache = Path(os.environ.get("XDG_CACHE_HOME") or Path.home() / ".cache")
    return cache / "nimble-quake" / "kernels" / host()


def name_of(kernel: str, digest: str, types: str) -> str:
    """Return the name of a kernel's file."""
    return f"{kernel}-{hashlib.sha256(f'{digest} {types}'.encode()).hexdigest()[:24]}.o"


def read_shipped(kernel: str, digest: str, types: str) -> Object | None:
    """Return a kernel that came along, by the digest of its source; None where there is none."""
    folder = shipped()
    return None if folder is None or not digest else _read(folder / name_of(kernel, digest, types))


def read(kernel: str, digest: str, types: str) -> Object | None:
    """Return a kernel that was compiled here; None where there is none, or a damaged one."""
    return _read(own() / name_of(kernel, digest, types))


def _read(file: Path) -> Object | None:
    try:
        head, _, code = file.read_bytes().partition(b"\n")
        symbol, result, check = head.decode().split(" ")
    except (OSError, ValueError):
        return None
    return Object(symbol, result, code) if hashlib.sha256(code).hexdigest() == check else None


def write(kernel: str, digest: str, types: str, object: Object) -> None:
    """Keep a kernel; where nothing can be written, it is compiled again next time."""
    head = f"{object.symbol} {object.result} {hashlib.sha256(object.code).hexdigest()}\n".encode()
    place, made = own(), ""
    try:
        place.mkdir(parents=True, exist_ok=True)
        with tempfile.NamedTemporaryFile(dir=place, delete=False) as file:
            made = file.name
            file.write(head + object.code)
        os.chmod(made, 0o644)  # who shares the program shares its kernels
        os.replace(made, place / name_of(kernel, digest, types))
    except OSError:  # no room, or no folder
        if made:
            Path(made).unlink(missing_ok=True)


@contextmanager
def claimed(kernel: str, digest: str, types: str) -> Iterator[None]:
    """Hold the right to compile a kernel; whoever else wants to waits, and finds it then."""
    handle = -1
    with suppress(OSError):  # nothing can be written, or locked: it is compiled twice at worst
        own().mkdir(parents=True, exist_ok=True)
        handle = os.open(own() / f".{name_of(kernel, digest, types)}.lock", os.O_RDWR | os.O_CREAT, 0o644)
        fcntl.flock(handle, fcntl.LOCK_EX)
    try:
        yield
    finally:
        if handle >= 0:
            with suppress(OSError):
                os.unlink(own() / f".{name_of(kernel, digest, types)}.lock")
            os.close(handle)


def complete() -> bool:
    """Return whether all kernels were compiled once, or came along."""
    came = shipped()
    return (came is not None and (came / DONE).exists()) or (own() / DONE).exists()


def set_complete() -> None:
    """Note that all kernels were compiled."""
    try:
        (own() / DONE).touch()
    except OSError:
        return
