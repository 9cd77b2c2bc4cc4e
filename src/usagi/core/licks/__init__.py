"""Licks: found again without their key, compared, carried elsewhere, joined into a chorus."""
