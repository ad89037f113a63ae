from concurrent.futures import ThreadPoolExecutor
from threading import Barrier

import pytest

from rapzel.core.shared.once import once


class Asked:
    def __init__(self, answer: object) -> None:
        self.answer, self.times = answer, 0

    @once
    def worked_out(self) -> object:
        """What it comes to."""
        self.times += 1
        return self.answer


def test_it_is_worked_out_once_for_each_instance_also_where_it_comes_to_nothing() -> (
    None
):
    one, other = Asked(3), Asked(None)
    assert (one.worked_out, one.worked_out, one.times) == (3, 3, 1)
    assert (other.worked_out, other.worked_out, other.times) == (None, None, 1)
    assert Asked.worked_out.__doc__ == "What it comes to."


def test_what_fails_is_tried_again() -> None:
    class Late:
        ready = False

        @once
        def answer(self) -> str:
            if not self.ready:
                raise ValueError("not yet")
            return "now"

    late = Late()
    with pytest.raises(ValueError, match="not yet"):
        _ = late.answer
    late.ready = True
    assert late.answer == "now"


def test_two_threads_work_on_two_instances_at_the_same_time() -> None:
    both_are_in = Barrier(2, timeout=30)

    class Slow:
        @once
        def answer(self) -> int:
            return both_are_in.wait()

    with ThreadPoolExecutor(2) as threads:
        assert sorted(threads.map(lambda one: one.answer, [Slow(), Slow()])) == [0, 1]
