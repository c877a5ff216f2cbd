"""A first brief, drafted from the page that is there."""
