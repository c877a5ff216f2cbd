"""What the eye does with a picture: where it is drawn, and the seams that it sees."""
