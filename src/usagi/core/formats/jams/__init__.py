"""JAMS, a JSON format of annotations in time, out and in."""
