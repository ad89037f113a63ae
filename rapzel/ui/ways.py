"""What each page answers, and what usually comes after it: its first line and its last.

Pages are called by the names of their addresses, so that this module knows no application. The pages of a scene lead on
by `workbench.way`, which knows how the scene stands.
"""

from dataclasses import dataclass

from django.urls import reverse


@dataclass(frozen=True)
class Place:
    """A part of the house, as the bar at the top shows it. `app` is the namespace of the pages in it."""

    title: str
    view: str
    apps: tuple[str, ...]


HOUSE = (
    Place("Shoots", "workbench:shoots", ("workbench", "finding", "timing", "takes", "dialling")),
    Place("Kit", "kit:list", ("kit",)),
    Place("Bench", "bench:list", ("bench",)),
    Place("Practice", "practice:page", ("practice",)),
    Place("Calculators", "tools:list", ("tools",)),
)  # fmt: skip


@dataclass(frozen=True)
class Page:
    """The question that a page answers; the page that usually comes next, and what one does there.

    `next_view` needs no argument. Empty where the page leads on by itself.
    """

    answers: str
    next_view: str = ""
    next_says: str = ""


PAGES: dict[str, Page] = {
    "workbench:shoots": Page(
        "Which shoot do you want to plan, or go on with?",
        "finding:begin",
        "begin with what moves",
    ),
    "workbench:shoot": Page("Which pictures are planned, and will you get them?"),
    "finding:begin": Page(
        "Choose what moves most like your subject. The scene that opens answers at once, and you can change all of it.",
        "guide:help",
        "read how a scene answers",
    ),
    "kit:list": Page(
        "What do you own, and how short is its light? Scenes take their figures from here.",
        "kit:compare",
        "compare your strobes",
    ),
    "kit:edit": Page(
        "What is known about this piece of gear, and how surely?",
        "bench:list",
        "measure what is not known",
    ),
    "kit:compare": Page(
        "Which of your strobes is short and bright enough?",
        "finding:begin",
        "plan a scene with them",
    ),
    "bench:list": Page(
        "How long does a light really last, and how late does it come?",
        "kit:list",
        "see the measured figures in the kit",
    ),
    "bench:trace": Page(
        "How long does this light last, and how surely is that known?",
        "bench:list",
        "save it to the strobe",
    ),
    "bench:confirm": Page(
        "Is this file read the right way?",
        "bench:list",
        "look at the other recordings",
    ),
    "bench:lag": Page(
        "How much later does the second signal come?",
        "kit:list",
        "see the trigger in the kit",
    ),
    "bench:colours": Page(
        "Does the colour or the exposure change from pop to pop?",
        "bench:list",
        "measure durations",
    ),
    "bench:colour": Page(
        "How much do colour and exposure change from pop to pop?",
        "bench:colours",
        "look at the other runs",
    ),
    "bench:curtains": Page(
        "How long does the shutter take across the frame?",
        "kit:list",
        "see the camera in the kit",
    ),
    "practice:page": Page(
        "How early or late do you press, and how much does that vary?",
        "workbench:shoots",
        "use it in a scene, under Trigger",
    ),
    "tools:list": Page(
        "One question at a time, each with its own inputs. Open one from a scene to start with its values.",
        "workbench:shoots",
        "go back to your shoots",
    ),
    "tools:page": Page("", "tools:list", "choose another calculator"),
    "tools:scene_index": Page(
        "One question at a time, starting with the values of this scene."
    ),
    "accounts:account": Page(
        "How are times shown, and what of yours is kept here?",
        "workbench:shoots",
        "go back to your shoots",
    ),
    "accounts:password": Page(
        "Choose another password.", "accounts:account", "go back to your account"
    ),
    "accounts:letters": Page(
        "Where should a letter go if you forget your password?",
        "accounts:account",
        "go back to your account",
    ),
    "accounts:farewell": Page(
        "What happens when an account is deleted?",
        "accounts:account",
        "go back and keep it",
    ),
    "accounts:login": Page(
        "Will your strobe freeze the motion, is it bright enough, and when does the light come?",
        "guide:help",
        "read what Rapzel answers",
    ),
    "accounts:sign_up": Page(
        "Your own shoots and kit, kept for you alone.",
        "guide:help",
        "read what Rapzel answers",
    ),
    "accounts:forgotten": Page(
        "Where should the letter go?", "accounts:login", "log in"
    ),
    "accounts:set_anew": Page("Choose a new password.", "accounts:login", "log in"),
    "guide:front": Page(
        "Will your strobe freeze the motion, is it bright enough, and when does the light come?",
        "guide:help",
        "read what else Rapzel answers",
    ),
    "guide:help": Page(
        "A dozen questions of the job, and the page that answers each.",
        "finding:begin",
        "begin a scene",
    ),
    "guide:words": Page(
        "What does each word on the screen mean?",
        "guide:help",
        "see what Rapzel answers",
    ),
}


@dataclass(frozen=True)
class Next:
    """The one link at the end of a page."""

    says: str
    address: str


def next_of(view: str) -> Next | None:
    """What usually comes after a page; None for one that leads on by itself, or by none."""
    page = PAGES.get(view)
    if page is None or not page.next_view:
        return None
    return Next(page.next_says, reverse(page.next_view))
