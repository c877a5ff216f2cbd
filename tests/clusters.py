"""A scheduler with workers on this machine, in a process of its own, for tests and benchmarks."""

from __future__ import annotations

import os
import subprocess
import sys
from collections.abc import Iterator
from contextlib import contextmanager


@contextmanager
def running(workers: int) -> Iterator[str]:
    """The address of a scheduler with so many workers of one thread each."""
    with started(workers) as (address, _):
        yield address


@contextmanager
def started(workers: int) -> Iterator[tuple[str, subprocess.Popen[str]]]:
    """Its address, and its process."""
    process = subprocess.Popen(
        [sys.executable, __file__, str(workers)],
        stdin=subprocess.PIPE, stdout=subprocess.PIPE, stderr=subprocess.DEVNULL,
        encoding="utf-8", env={**os.environ, "PYTHONPATH": os.pathsep.join(map(str, sys.path))},
    )  # fmt: skip
    try:
        assert process.stdout is not None
        yield process.stdout.readline().strip(), process
    finally:
        process.communicate("", timeout=30)


def main(workers: int) -> None:
    """Print the address, and end with the input."""
    from distributed import LocalCluster

    with LocalCluster(
        n_workers=workers, threads_per_worker=1, dashboard_address=None, host="127.0.0.1"
    ) as cluster:
        print(cluster.scheduler_address, flush=True)  # noqa: T201 - its product
        sys.stdin.read()


if __name__ == "__main__":
    main(int(sys.argv[1]))
