"""Letters, accidentals, octaves and the spelling of pitches.

Pitch is MIDI-numbered (A4 = 69); quarter tones are halves. A *name* is a letter and an accidental (`Bb`), a *spelled
pitch* has an octave too (`Bb4`; the octave changes at C). Text here is ASCII, `b` and `#`; screens draw ♭ and ♯.
"""
