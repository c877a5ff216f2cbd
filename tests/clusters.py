"""A scheduler with workers on this machine, for tests: prints its address, ends with its input."""

from __future__ import annotations

import sys


def main(workers: int) -> None:
    from distributed import LocalCluster

    with LocalCluster(
        n_workers=workers, threads_per_worker=1, dashboard_address=None, host="127.0.0.1"
    ) as cluster:
        print(cluster.scheduler_address, flush=True)  # noqa: T201 - its product
        sys.stdin.read()


if __name__ == "__main__":
    main(int(sys.argv[1]))
