"""Routes of Setup, by subject."""
