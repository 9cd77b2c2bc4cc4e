"""The written solo and the ground that it stands on: notes, techniques, anchors to the sound, and edits of them.

Positions and lengths are ticks (core/meter), frets are hundredths and count from the capo (core/fretboard), bends are
quarter tones. Everything here is a frozen value; a change is an edit that carries the value before and the value after
(docs/model.md).
"""
