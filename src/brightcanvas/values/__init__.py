"""The ground floor: plain data and words that every other room uses."""
