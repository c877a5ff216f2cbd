"""SVG drawings: cleaned, cut, and rendered by a program of their own."""
