"""The command line: arguments, printing, progress, exit statuses. Nothing imports it."""
