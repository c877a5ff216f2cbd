"""Pictures: any mode in, upright sRGB out; written without metadata."""
