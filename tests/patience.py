"""How long tests wait for what must happen. A wait ends as soon as it has, so patience costs nothing.

No test judges by these: they only end a wait for what does not come, on the slowest machine that the tests are run on.
"""

ANSWER_S = 60.0  # for a page, an expectation, a device
PROCESS_S = 600.0  # for a command in a process of its own
