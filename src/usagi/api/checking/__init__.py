"""Routes of the check."""
