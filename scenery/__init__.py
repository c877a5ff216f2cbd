"""Draws the demo's pictures and clip: Marrowfen Mill, a made-up windmill in a made-up fen.

Run ``python -m scenery`` to draw everything anew into the package's demo folder. All of it
is computed: noise, gradients and polygons, with fixed seeds.
"""
