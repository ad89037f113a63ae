"""Names of accounts: no two that look alike to a reader, whatever letters they are made of.

Names are stored in one form (Unicode NFKC, by Django's own field). Letters that look alike are those of Unicode
Technical Standard 39, in the tables of confusable_homoglyphs.
"""

import unicodedata
from functools import lru_cache

from confusable_homoglyphs import confusables


def look_of(name: str) -> str:
    """A text that is the same for names that look alike: each letter stands for all that are taken for it."""
    plain = unicodedata.normalize("NFKC", name).casefold()
    return "".join(_stand_in(letter) for letter in plain)


@lru_cache(maxsize=10_000)
def _stand_in(letter: str) -> str:
    """The first by its number of all letters that are taken for this one; plain letters and digits before others.

    The tables tell of neighbours only, so that the stand-in is asked for its own.
    """
    alike = {letter, letter.upper()}
    for each in (letter, letter.upper()):
        alike |= {one["c"] for one in confusables.confusables_data.get(each, [])}
    single = {each.casefold() for each in alike if len(each) == 1}
    plain = {each for each in single if each.isascii() and each.isalnum()}
    first = min(plain or single, default=letter)
    if first >= letter and letter in (plain or single):
        return letter
    return _stand_in(first)
