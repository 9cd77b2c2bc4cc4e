"""Players: what is counted over their solos, side by side."""
