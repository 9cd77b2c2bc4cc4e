"""Standard MIDI files, out and in."""
