"""How light a file can be: formats, settings and what a picture's content asks for."""
