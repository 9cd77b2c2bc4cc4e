"""What the server writes of notes on request: figures, pitches, tablature, fingerings, versions."""
