"""Text tablature as people write it in mail, read into a score."""
