"""A score of another program laid on a guitar."""
