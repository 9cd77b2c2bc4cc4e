"""Across solos: the shelf, new solos and recordings, documents in and out, backups."""
