"""From a plan to published files: making, storing, publishing."""
