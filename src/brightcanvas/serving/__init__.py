"""A page's folder on a port of this machine, over a line of a stated rate; windows that open it."""
