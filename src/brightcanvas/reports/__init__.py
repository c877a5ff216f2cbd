"""Pictures and pages for looking at a result."""
