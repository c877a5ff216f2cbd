"""Input that means harm: whether anything of it gets through.

    python -m bench.hostile SECONDS [--only WORD] [--seed NUMBER]

Each case is a folder of files and a call of the program in a process of its own. Counted are
tracebacks, hangs, wrong statuses, files half written, files of others that were touched, and memory
beyond the limit.
"""
