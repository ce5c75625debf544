"""Clouds: what a design intends of them, what they hold, how the two differ, and the steps that bring them together."""
