"""The limits of a search as one sentence whose words can be changed in place."""

from dataclasses import dataclass
from typing import Any

from rapzel.core.methods import METHODS
from rapzel.core.search.find import Kit
from rapzel.core.search.limits import BARE, ORDERS, Limits, read_limits
from rapzel.core.shared.errors import DocumentError, Problem, UnitError
from rapzel.ui.inputs import QUANTITIES

POWERS = (("", "as they come"), ("1", "equal"))


@dataclass(frozen=True)
class Word:
    """A word of the sentence that can be changed: which limit, how it is read, and what stands about it.

    `name` is the limit, with `.0` or `.1` for the ends of a range; `after` stands right behind the word.
    """

    name: str
    label: str
    before: str = ""
    after: str = ""
    quantity: str = ""
    optional: bool = False  # left empty it asks for nothing
    whole: bool = False

    @property
    def key(self) -> str:
        # As an element's id has it: a dot would be read as a class.
        return self.name.replace(".", "-").replace("_", "-")

    @property
    def limit(self) -> str:
        return self.name.split(".", maxsplit=1)[0]

    @property
    def several(self) -> bool:
        """Whether it names some of what there is."""
        return self.name in ("strobes", "modifiers", "methods")

    def value(self, limits: Limits) -> Any:
        value = getattr(limits, self.limit)
        if "." in self.name:
            # The two ends of a range are words of their own in the sentence.
            return value[int(self.name[-1])]
        return value


# In the order of the sentence.
WORDS: tuple[Word, ...] = (
    Word("iso.0", "Lowest ISO", "ISO", quantity="iso"),
    Word("iso.1", "Highest ISO", "to", ",", "iso"),
    Word("f_number.0", "Widest aperture", quantity="f_number"),
    Word("f_number.1", "Smallest aperture", "to", ",", "f_number"),
    Word("shutter_s.0", "Fastest shutter", "shutter", quantity="shutter"),
    Word("shutter_s.1", "Slowest shutter", "to", ";", "shutter"),
    Word("lights", "Lights at most", "at most", quantity="count", whole=True),
    Word("strobes", "Which strobes", "of"),
    Word("modifiers", "Modifiers", "with", ","),
    Word("distance_m.0", "Nearest lights", quantity="length"),
    Word("distance_m.1", "Farthest lights", "to", " away,", "length"),
    Word("equal_power", "Powers", "powers", ";"),
    Word("methods", "Methods", "by", ";"),
    Word("freeze_stops", "Freeze margin", "freeze to spare", " stops,", "stops"),
    Word("tolerance_stops", "Light tolerance", "light within ±", " stops,", "stops"),
    Word(
        "frames_per_s",
        "Frames a second",
        after=" frames/s",
        quantity="number",
        optional=True,
    ),
    Word(
        "burst",
        "Frames of a burst",
        "for",
        " frames,",
        quantity="count",
        optional=True,
        whole=True,
    ),
    Word(
        "depth_m",
        "Depth of field",
        after=" of depth;",
        quantity="length",
        optional=True,
    ),
    Word("order", "Order", after=" first."),
)
_BY_NAME = {word.name: word for word in WORDS}


@dataclass(frozen=True)
class Chip:
    """A word as it stands on a page: what it says, what may be chosen, and what was wrong with it."""

    word: Word
    text: str
    # value, what it says, whether it is chosen
    choices: tuple[tuple[str, str, bool], ...] = ()
    error: str = ""

    @property
    def size(self) -> int:
        """Characters that the field is wide."""
        return max(len(self.text) + 1, 4)


def chip_of(
    word: Word, limits: Limits, kit: Kit, imperial: bool, error: str = ""
) -> Chip:
    """A word with its value."""
    value = word.value(limits)
    if word.name == "order":
        orders = tuple((str(key), says, key == value) for key, says in ORDERS.items())
        return Chip(word, ORDERS[value], orders, error)
    if word.name == "equal_power":
        choices = tuple((key, says, bool(key) == value) for key, says in POWERS)
        return Chip(word, dict(POWERS)["1" if value else ""], choices, error)
    if word.several:
        offered = _offered(word, kit)
        chosen = _chosen(word, value, offered)
        choices = tuple((key, says, key in chosen) for key, says in offered.items())
        return Chip(word, _several_in_words(word, value, offered), choices, error)
    return Chip(word, QUANTITIES[word.quantity].show(value, imperial), (), error)


def _offered(word: Word, kit: Kit) -> dict[str, str]:
    """What may be chosen: name and words."""
    if word.name == "methods":
        return {key: method.title for key, method in METHODS.items()}
    if word.name == "strobes":
        return {one.name: one.name or "without a name" for one in kit.strobes}
    # No modifier at all is a choice as well, and often the brightest.
    return {BARE: "bare reflector", **{name: name for name in kit.modifiers}}


def _chosen(
    word: Word, value: tuple[str, ...] | None, offered: dict[str, str]
) -> set[str]:
    if value is None:
        if word.name == "modifiers":
            return set()
        # Nothing was chosen: strobes and methods are then all of them.
        return set(offered)
    return set(value)


def _several_in_words(
    word: Word, value: tuple[str, ...] | None, offered: dict[str, str]
) -> str:
    everything = {"strobes": "the whole kit", "methods": "every method"}
    if value is None:
        return everything.get(word.name, "modifiers as now")
    # A strobe that was sold since is no longer offered.
    known = [offered[name] for name in value if name in offered]
    if len(known) == 1:
        return known[0]
    plural = {"strobes": "strobes", "methods": "methods", "modifiers": "modifiers"}[
        word.name
    ]
    return f"{len(known)} {plural}"


def word_of(name: str) -> Word:
    """The word of that name. Raises DocumentError where no limit is called so."""
    if name not in _BY_NAME:
        raise DocumentError([Problem("", f"no limit is called “{name[:40]}”")])
    return _BY_NAME[name]


def with_word(
    limits: Limits, name: str, texts: list[str], kit: Kit, imperial: bool
) -> Limits:
    """The limits with one word changed to what was typed or chosen.

    Raises DocumentError with the name of the word and what would be accepted.
    """
    word = word_of(name)
    try:
        value = _read(word, texts, kit, imperial)
    except UnitError as error:
        raise DocumentError([Problem(name, str(error))]) from None
    if "." in name:
        ends = list(getattr(limits, word.limit))
        ends[int(name[-1])] = value
        value = ends
    document = limits.model_dump(mode="json") | {word.limit: value}
    if word.limit == "frames_per_s" and value is None:
        document["burst"] = None  # a burst without a rate asks for nothing
    try:
        return read_limits(document)
    except DocumentError as error:
        reasons = "; ".join(
            problem.reason.removeprefix(f"{word.limit}: ") for problem in error.problems
        )
        raise DocumentError([Problem(name, reasons)]) from None


def stepped(
    limits: Limits, name: str, text: str, direction: int, imperial: bool
) -> str:
    """What is typed in a word, or else its value, one step up (+1) or down (−1); a word without steps as it is.

    Raises DocumentError where no limit is called so.
    """
    word = word_of(name)
    if not word.quantity:
        return text
    quantity = QUANTITIES[word.quantity]
    try:
        value = quantity.parse(text, imperial)
    except UnitError:
        value = word.value(limits)
    if value is None:
        return text
    return quantity.show(quantity.step(value, direction), imperial)


def _read(word: Word, texts: list[str], kit: Kit, imperial: bool) -> Any:
    if texts:
        text = texts[0].strip()
    else:
        text = ""
    if word.several:
        offered = _offered(word, kit)
        chosen = [key for key in offered if key in texts]
        everything = word.name != "modifiers" and len(chosen) == len(offered)
        if not chosen or everything:
            return None
        return chosen
    if word.name == "equal_power":
        return text == "1"
    if word.name == "order":
        return text
    if word.optional and not text:
        return None
    value = QUANTITIES[word.quantity].parse(text, imperial)
    if word.whole:
        return int(value)
    return value
