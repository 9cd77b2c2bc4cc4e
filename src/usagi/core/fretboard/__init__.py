"""Strings, tunings, capo and frets; pitches to places and back.

Strings number from 1, the player's thinnest. Frets count from the capo; here they are in hundredths, as documents
store them (fret 10 is 1000), so that a bottleneck may lie between frets (docs/music.md, Pitch, strings, frets).
"""
