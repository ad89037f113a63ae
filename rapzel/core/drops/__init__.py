"""Drops that meet in mid-air: sizes, fall, the jet of the first, and when the second must go (science §14)."""
