"""Open formats: the JSON document of ours, and monospaced text tablature (docs/format.md)."""
