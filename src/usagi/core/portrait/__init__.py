"""What players do, counted over their solos and compared."""
