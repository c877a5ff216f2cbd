"""Everything that can go wrong for a user, with its exit status.

    BrightCanvasError
    ├── BriefError      2  the command line or the brief is wrong, nothing written
    ├── SourceError     3  a source can't be used
    └── MachineError    4  the machine failed us: disk, permission

An error's text says what is wrong, where, and what to do, in one or two lines.
"""

from __future__ import annotations

from enum import IntEnum


class ExitStatus(IntEnum):
    """What the program tells the shell."""

    ALL_WELL = 0
    PROMISE_BROKEN = 1
    BRIEF_WRONG = 2
    SOURCE_UNUSABLE = 3
    MACHINE_FAILED = 4
    OUR_FAULT = 70
    INTERRUPTED = 130


class BrightCanvasError(Exception):
    """Base of all errors that are told to the user in one line."""

    status = ExitStatus.MACHINE_FAILED


class BriefError(BrightCanvasError):
    """The command line or the brief asks for something that can't be."""

    status = ExitStatus.BRIEF_WRONG


class SourceError(BrightCanvasError):
    """A source picture or clip can't be used."""

    status = ExitStatus.SOURCE_UNUSABLE


class MachineError(BrightCanvasError):
    """The disk is full, a folder may not be written, and the like."""

    status = ExitStatus.MACHINE_FAILED
