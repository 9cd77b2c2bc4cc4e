"""MusicXML 4.0, out and in."""
