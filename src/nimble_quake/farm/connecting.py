"""Connecting to machines: workers started here, a scheduler by its address, or by the file it wrote."""

from __future__ import annotations

import json
import logging
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

from nimble_quake.errors import BadInput, FailedWork
from nimble_quake.farm.farm import Farm
from nimble_quake.farm.keys import NEEDED, keys_in, refuse_open
from nimble_quake.farm.where import Where
from nimble_quake.render.engine import Engine
from nimble_quake.shotfile.files import read_plain

CONNECT = 15.0
"""Seconds to reach the machines."""
MOST_BYTES = 1_000_000


@contextmanager
def connected(where: Where, engine: Engine, notify: Callable[[str], None] = lambda line: None) -> Iterator[Farm]:
    """Connect to machines, or start workers here. Raises BadInput or FailedWork."""
    try:
        import distributed  # noqa: F401  an extra
    except ImportError as wrong:
        raise BadInput("many machines need an extra", cure=NEEDED) from wrong
    logging.getLogger("distributed").setLevel(logging.CRITICAL)
    if where.workers:
        from nimble_quake.farm.here import workers_here

        with workers_here(where.workers) as client, _ended(Farm(client, engine, notify, ours=True)) as farm:
            yield farm
        return
    address = address_of(where.address)
    security = security_of(address, where)
    from distributed import Client

    try:
        client = Client(address, security=security, timeout=CONNECT, set_as_default=False)
    except (OSError, TimeoutError, ValueError) as wrong:
        raise FailedWork(f"{address} cannot be reached ({wrong})", cure="start its scheduler") from wrong
    with client, _ended(Farm(client, engine, notify)) as farm:
        yield farm


@contextmanager
def _ended(farm: Farm) -> Iterator[Farm]:
    """A farm that has told its machines that all jobs are over before the connection is closed."""
    try:
        yield farm
    finally:
        farm.wait_for_ends()


def address_of(text: str) -> str:
    """Return the address of a scheduler: as it is given, or from the file it wrote (`--scheduler-file`).

    Raises BadInput, ShotError.
    """
    if "://" in text or not Path(text).exists():
        return text
    try:
        found = json.loads(read_plain(Path(text), MOST_BYTES))["address"]
        if isinstance(found, str):
            return found
    except (ValueError, KeyError, TypeError, RecursionError):
        pass
    raise BadInput("is no scheduler file", where=text, cure="give the one that dask scheduler --scheduler-file wrote")


def security_of(address: str, where: Where) -> Any:
    """Return the credentials for an address: from a folder of keys, else from dask's own settings.

    Raises BadInput where the connection would be open to all.
    """
    from distributed import Security

    own: Any = Security()  # reads dask's own files and environment
    has_own = bool(own.tls_ca_file and own.tls_client_cert)
    refuse_open(address, secured=where.keys is not None or has_own, plain=where.plain)
    if where.keys is None:
        return own if has_own else None
    keys = keys_in(where.keys)
    files = {kind: str(file) for kind, file in (("cert", keys.certificate), ("key", keys.key))}
    nodes = {f"tls_{node}_{kind}": file for node in ("client", "scheduler", "worker") for kind, file in files.items()}
    return Security(require_encryption=True, tls_ca_file=str(keys.authority), **nodes)
