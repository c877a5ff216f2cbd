"""Where things really lie on a page, asked of a real browser in many windows."""
