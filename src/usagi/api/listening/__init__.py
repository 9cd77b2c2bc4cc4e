"""Routes of listening."""
