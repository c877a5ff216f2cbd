"""How light a clip's files can be, and what a published one is asked."""
