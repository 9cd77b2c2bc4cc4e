"""Checking a solo: hearing all of it, telling what does not agree, mending and waiving."""
