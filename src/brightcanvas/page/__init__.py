"""A page as it is: its tree, its style sheets, and what each window makes it fetch."""
