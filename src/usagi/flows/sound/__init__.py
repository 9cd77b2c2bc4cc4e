"""Pieces of sound to play, and how far a slow one is."""
