"""Routes across solos."""
