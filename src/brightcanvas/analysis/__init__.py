"""What is in a picture or a clip: where the eye goes, seams, legibility, flashes, loops, stills."""
