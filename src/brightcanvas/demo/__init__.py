"""The example: Marrowfen Mill, a made-up windmill in a made-up fen."""
