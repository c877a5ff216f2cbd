"""The only room that touches the codec libraries: pictures and clips in, bytes out."""
