"""The ways to stop motion, as one table: what stops it, how rows open, when the light comes (science §8)."""

from rapzel.core.methods.table import METHODS, Method, method_of, of_word

__all__ = ["METHODS", "Method", "method_of", "of_word"]
