"""Why a line works: relations, strong beats, chord motion, and the scales, chords, grips and patterns of a phrase."""
