"""Routes of the analysis."""
