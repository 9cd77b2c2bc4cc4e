"""Licks: kept, found, carried elsewhere, quoted; the index that finds them."""
