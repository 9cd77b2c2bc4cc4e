"""Each note's degree and role over its chord: names, anticipation, labels and the sentence that says a note.

A degree is the interval above the root of the chord that a note is heard against (for a foreign bass: above the
bass). Degrees come from what is written; heard cents never change them (docs/music.md, Degrees).
"""
