"""The executor that somebody asked for."""

from __future__ import annotations

from brightcanvas.pipeline.executors import Executor, Processes, Threads
from brightcanvas.values.workers import Workers


def executor_for(workers: Workers) -> Executor:
    """The workers that are meant; whoever asked closes them.

    Raises:
        BrightCanvasError: there are none under that address.
    """
    if workers.kind == "processes":
        return Processes(workers.count)
    if workers.kind == "cluster":
        from brightcanvas.pipeline.cluster import Cluster

        return Cluster(workers.address)
    return Threads()
