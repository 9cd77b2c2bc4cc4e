"""Chord symbols: what is written, what it names, and the root that it is heard on.

Tones are *slots*, semitones above a root from 0 to 11. Core tones are root, third or suspension, fifth, and sixth or
seventh; what else a symbol names are its named extensions (docs/music.md, Chords).
"""
