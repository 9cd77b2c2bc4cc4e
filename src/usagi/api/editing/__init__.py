"""Routes of an open solo: opening, edits, undo and redo, news."""
