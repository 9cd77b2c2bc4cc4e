"""Where a line lies under the hand (docs/music.md, Fingering).

A *position* is the fret under the index finger; it spans five frets, the fifth with a stretch. Open strings and tapped
notes lie outside it. Frets are whole numbers counted from the capo here, hundredths in the document; costs have no
unit: one is a plain shift of the hand by a fret with time enough.
"""
