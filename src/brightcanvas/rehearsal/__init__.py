"""A page load played through: which screen fetches what, when, over which line."""
