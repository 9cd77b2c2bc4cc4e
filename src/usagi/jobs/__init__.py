"""Slow elements, done by workers: processes of their own that need nothing but the database's address."""
