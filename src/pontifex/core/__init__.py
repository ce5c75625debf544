"""The job itself: pure functions over immutable values.

No input or output, clock, randomness, web or database; nothing of ours above this package is imported.
"""
