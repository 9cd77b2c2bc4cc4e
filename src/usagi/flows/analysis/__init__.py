"""Reading a solo: its analysis, why a note is called what it is, and what the teacher picks and says."""
