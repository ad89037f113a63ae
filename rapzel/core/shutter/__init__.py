"""Shutters as one row model, and the effective light curve of each row (science §7). Kernels; times in seconds."""
