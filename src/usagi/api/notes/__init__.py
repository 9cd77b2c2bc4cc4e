"""Routes of Notes, by subject."""
