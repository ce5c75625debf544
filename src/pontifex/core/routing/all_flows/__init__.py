"""All flows between all networks at once, in arrays: who reaches whom, and what each failure changes."""
