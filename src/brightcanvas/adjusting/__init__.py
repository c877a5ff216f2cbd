"""The local page on which a brief is adjusted, and the same page frozen as a proof."""
