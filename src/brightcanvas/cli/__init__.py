"""The command line: it reads the arguments and gives the exit status. Nothing imports it."""
