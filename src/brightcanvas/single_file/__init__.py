"""One file at a time, without a brief: cropped, compressed, transcoded, tried, compared."""
