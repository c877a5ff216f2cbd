"""How light a picture's files can be."""
