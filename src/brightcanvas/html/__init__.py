"""HTML as it is written: its tree, and where tags and attributes stand in its text."""
