"""The pages that are written, and the one look that reports share."""
