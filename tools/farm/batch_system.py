"""Render on the nodes of a batch system: python batch_system.py SHOT OUT KEYS [NODES]

An example for Slurm with dask-jobqueue (pip install dask-jobqueue); it has the same class for PBS, LSF, SGE and others.
Each job is one worker: a frame uses all cores of its node by itself. KEYS: a folder made by nimble-quake farm-keys, on
a disk that all nodes see.
"""

from __future__ import annotations

import subprocess
import sys
from pathlib import Path

from dask_jobqueue import SLURMCluster
from distributed import Security


def main(shot: str, out: str, keys: str, nodes: int = 8) -> int:
    """Start workers on so many nodes, render, and end them."""
    folder = Path(keys).absolute()
    files = {"cert": str(folder / "certificate.pem"), "key": str(folder / "key.pem")}
    ends = {f"tls_{node}_{kind}": file for node in ("client", "scheduler", "worker") for kind, file in files.items()}
    security = Security(require_encryption=True, tls_ca_file=str(folder / "authority.pem"), **ends)
    with SLURMCluster(
        cores=1,  # threads of a worker
        processes=1,
        job_cpu=16,
        memory="16GB",
        walltime="04:00:00",
        security=security,
        protocol="tls://",
        scheduler_options={"dashboard": False, "dashboard_address": "127.0.0.1:0"},
    ) as cluster:
        cluster.scale(jobs=nodes)
        cluster.wait_for_workers(1)
        words = ["nimble-quake", "render", shot, "-o", out, "--on", cluster.scheduler_address, "--keys", str(folder)]
        return subprocess.run(words, check=False).returncode


if __name__ == "__main__":
    sys.exit(main(*sys.argv[1:4], *(int(word) for word in sys.argv[4:5])))
