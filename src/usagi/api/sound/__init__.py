"""Routes of the sound."""
