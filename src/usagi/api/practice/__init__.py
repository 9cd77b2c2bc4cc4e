"""Routes of the Teach stage."""
