"""Numbers as people write them: decimal points and commas, and groups of three digits between commas, points or spaces.

`12,800` may be twelve thousand eight hundred or twelve point eight. It is never guessed in silence: the one that asks
says which signs it uses, or the number is refused as one that can be read in two ways.
"""

import re

_GROUPED = {
    ",": re.compile(r"[-+]?[1-9]\d{0,2}(?:,\d{3})+(?:\.\d+)?"),
    ".": re.compile(r"[-+]?[1-9]\d{0,2}(?:(?:\.\d{3})+,\d+|(?:\.\d{3}){2,})"),
}
# 0,125 has one way only, and so has 1,25
_TWO_WAYS = re.compile(r"[-+]?[1-9]\d{0,2},\d{3}")


class TwoWays(ValueError):
    """A number that can be read in two ways: with thousands, or with a decimal comma."""

    def __init__(self, text: str) -> None:
        self.thousands, self.decimal = text.replace(",", ""), text.replace(",", ".")
        super().__init__(f"“{text}” may be {self.thousands} or {self.decimal}")


def plain(text: str, comma: str = "") -> str:
    """The number with a decimal point and no groups: '1.234,5' -> '1234.5', '12 800' -> '12800'.

    comma: 'decimal' or 'thousands' where it is known what a comma is; else TwoWays is raised for '12,800'. What is no
    number comes back as it is.
    """
    # Thin, narrow, fixed and plain spaces part thousands in many countries.
    number = re.sub(r"(?<=\d)[\u2009\u202f\u00a0 ](?=\d{3}(\D|$))", "", text.strip())
    if _TWO_WAYS.fullmatch(number):
        if not comma:
            raise TwoWays(number)
        return number.replace(",", "." if comma == "decimal" else "")
    for sign, grouped in _GROUPED.items():
        if grouped.fullmatch(number) and not (sign == "," and comma == "decimal"):
            return number.replace(sign, "").replace(",", ".")
    # One comma and no point: 0,8 and 1,25 are decimals wherever they are written.
    if number.count(",") == 1 and "." not in number:
        return number.replace(",", ".")
    return number
