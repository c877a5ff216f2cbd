"""A program of its own: renders the drawing on its standard input, within limits on memory.

Drawings are programs, in a way: a few hundred bytes of one can ask for any amount of time and
memory, and renderers break in ways that can't be caught. So each is rendered in a process that
may be ended. Called with the px across (0: as the drawing states) and the bytes of memory; writes
a PNG, or the reason why there is none.

It imports nothing of ours, so that it starts in an instant.
"""

from __future__ import annotations

import sys

import resvg_py

REFUSED, OUT_OF_MEMORY = 1, 2
"""Statuses; where the system itself ends the process, there is another one."""


def main() -> int:
    """Render."""
    across, memory = (int(one) for one in sys.argv[1:])
    limit_memory(memory)
    try:
        picture = resvg_py.svg_to_bytes(
            svg_string=sys.stdin.buffer.read().decode("utf-8"), width=across or None
        )
    except MemoryError:
        return OUT_OF_MEMORY
    except BaseException as error:
        sys.stdout.write(str(error))
        return REFUSED
    sys.stdout.buffer.write(picture)
    return 0


def limit_memory(memory: int) -> None:
    """Where the system can do that: Windows has no such limit, there time alone counts."""
    try:
        import resource
    except ImportError:
        return
    for kind in (resource.RLIMIT_AS, resource.RLIMIT_DATA):
        hard = resource.getrlimit(kind)[1]
        most = memory if hard == resource.RLIM_INFINITY else min(memory, hard)
        try:
            resource.setrlimit(kind, (most, hard))
        except (OSError, ValueError):  # some systems know the limit and refuse to set it
            continue


if __name__ == "__main__":
    sys.exit(main())
