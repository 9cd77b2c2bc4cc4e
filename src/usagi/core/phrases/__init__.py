"""Figures, phrases and versions of a line: what is repeated, moved elsewhere, made simpler, compared."""
