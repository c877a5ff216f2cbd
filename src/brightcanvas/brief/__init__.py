"""The brief: what a site's backgrounds have to do, read from ``brief.toml``."""
