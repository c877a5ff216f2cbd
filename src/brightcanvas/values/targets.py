"""What quality is asked for, in plain words."""

from __future__ import annotations

LEVELS = {"careful": 0.975, "everyday": 0.955, "thrifty": 0.93}
"""The least score of a file as it is displayed (``weight.likeness``; 1 is the original).

*careful*: side by side with the original the difference has to be searched for;
*everyday*: nobody misses anything who does not see the original;
*thrifty*: softer at a close look; for pictures behind copy, and the lowest that is acceptable."""

DEFAULT_LEVEL = "everyday"
LOWEST_LEVEL = "thrifty"
