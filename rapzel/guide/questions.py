"""The dozen questions of the job, each with the page that answers it.

`scene` questions lead to the same page of the scene that was last worked on; without one, to where a scene begins.
"""

from dataclasses import dataclass

from django.urls import reverse


@dataclass(frozen=True)
class Question:
    """asks: as a photographer would; says: the short answer; view: the address; scene: whether it is a scene's page."""

    asks: str
    says: str
    view: str
    link: str
    scene: bool = True
    hash: str = ""

    def address(self, scene: int | None) -> str:
        """Where it is answered, for the scene that was last worked on."""
        if not self.scene:
            return reverse(self.view) + self.hash
        if scene is None:
            return reverse("finding:begin")
        return reverse(self.view, args=[scene]) + self.hash


QUESTIONS = (
    Question(
        "Will my strobe freeze this movement?",
        "Say what moves, how fast and how close you are. The Freeze tile compares the t.1 of your strobe with the longest"
        " light that still looks stopped. If it is too long, the line under the sentence names the power or the strobe"
        " that is short enough.",
        "workbench:scene",
        "Open the plan",
    ),
    Question(
        "Is it still bright enough at that power?",
        "Less power is shorter, and darker. The Exposure tile says how many stops are missing, and which ISO, aperture or"
        " distance would give them.",
        "workbench:scene",
        "Open the plan",
    ),
    Question(
        "Short flash, high-speed sync, or the shutter alone?",
        "Methods puts every way of stopping the motion beside the others, with what each has to spare and what it costs.",
        "finding:methods",
        "Compare the methods",
    ),
    Question(
        "Which of my lights, at which power?",
        "Find goes through your kit and lists the settings that work within your limits.",
        "finding:find",
        "Find settings",
    ),
    Question(
        "Which of my strobes is the shortest?",
        "The kit compares strobes by t.1, by light, and by both at once.",
        "kit:compare",
        "Compare strobes",
        scene=False,
    ),
    Question(
        "How long is my strobe really?",
        "Leaflets often give t.5, which flatters. Record the pulse with a photodiode, and the bench reads t.1 and t.5 off"
        " it, with their uncertainty.",
        "bench:list",
        "Open the bench",
        scene=False,
    ),
    Question(
        "When does the light come, and will it catch the moment?",
        "Timing draws the way from the event to the light, and plays thousands of tries with every variation you state.",
        "timing:page",
        "See the timing",
    ),
    Question(
        "Do I press early or late?",
        "Twelve presses tell. Your scenes can then use your own finger instead of a typical one.",
        "practice:page",
        "Practise",
        scene=False,
    ),
    Question(
        "The light comes too early on the set. What now?",
        "Dial in: one setting at a time, you say early, late or on, and the next value halves what is left.",
        "dialling:page",
        "Dial in",
    ),
    Question(
        "Why is there a ghost, or a dark band?",
        "A ghost is drawn by ambient light, a band by a shutter faster than the sync speed. Each has its own tile, and its"
        " own view with the sum behind it.",
        "workbench:scene",
        "Open the plan",
    ),
    Question(
        "What do I take to the set?",
        "The run sheet: settings, places, the order of tests, a dry run, how many tries to allow, and what to mind.",
        "workbench:sheet",
        "Open the run sheet",
    ),
    Question(
        "How many tries will it take?",
        "Log each try with one key. The log says how often you keep one, how many to allow, and whether the plan was"
        " right.",
        "takes:list",
        "Open the log",
    ),
)
