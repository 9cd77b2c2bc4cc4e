"""Players."""
