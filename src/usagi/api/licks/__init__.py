"""The lick book."""
