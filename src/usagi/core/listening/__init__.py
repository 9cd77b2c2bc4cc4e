"""Listening: which notes are heard in a stretch of sound, how they are played, and how sure that is.

A net looks at two spectra of the sound (spectrum.py, net.py) and says for every key and moment whether a note begins
and sounds there; notes are read from that (notes.py), judged by a second net (facts.py), measured by technique
(technique.py) and laid on the grid and under the hand as offers (offers.py). Sizes are measured, not learned.
docs/listening.md tells how well, from what, and where it fails.
"""
