"""What commands share: arguments, streams, words, tables, progress; here the terminal is known."""
