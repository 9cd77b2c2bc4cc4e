"""Opening a solo, changing it, undoing: every edit takes this way."""
