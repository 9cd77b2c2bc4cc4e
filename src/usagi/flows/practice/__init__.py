"""A solo learnt and taught: the plan, remarks, the vamp, the sheet, the loop pack."""
