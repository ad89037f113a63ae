"""Drops that meet in mid-air: sizes, fall, the jet that the first one raises, and when the second must go (science §14)."""
