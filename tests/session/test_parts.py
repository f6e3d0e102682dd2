"""Topics, the plain loop and the steps of undo, each alone."""

from __future__ import annotations

import sys
import threading
import unittest
from unittest import mock

from idler.session.loop import PlainLoop
from idler.session.topic import Topic
from idler.session.undo import ALONE, UndoStack


class Topics(unittest.TestCase):
    def test_one_that_fails_does_not_keep_it_from_the_others(self) -> None:
        topic: Topic[int] = Topic()
        heard: list[int] = []
        topic.subscribe(lambda number: 1 // number)  # type: ignore[arg-type, return-value]
        topic.subscribe(heard.append)
        with mock.patch.object(sys, "excepthook") as told:
            topic.publish(0)
        self.assertEqual(heard, [0])
        self.assertIs(told.call_args[0][0], ZeroDivisionError)

    def test_who_leaves_or_comes_while_it_is_told_changes_the_next_time_only(self) -> None:
        topic: Topic[()] = Topic()
        heard: list[str] = []

        def first() -> None:
            heard.append("first")
            topic.unsubscribe(first)
            topic.subscribe(lambda: heard.append("late"))

        topic.subscribe(first)
        topic.subscribe(lambda: heard.append("second"))
        topic.publish()
        self.assertEqual(heard, ["first", "second"])
        topic.publish()
        self.assertEqual(heard[2:], ["second", "late"])

    def test_after_its_end_nobody_is_told(self) -> None:
        topic: Topic[()] = Topic()
        heard: list[bool] = []
        topic.subscribe(lambda: heard.append(True))
        topic.end()
        topic.publish()
        topic.subscribe(lambda: heard.append(True))
        topic.publish()
        self.assertEqual(heard, [])


class Clock(PlainLoop):
    """A loop whose time goes on only while it waits: nothing of this test takes time."""

    time = 0.0

    def now(self) -> float:
        return self.time

    def _wait(self, seconds: float) -> None:
        self.time += min(seconds, 0.01) or 0.001


class Loops(unittest.TestCase):
    def test_timers_fire_in_their_order_again_or_once(self) -> None:
        loop, seen = Clock(), list[str]()
        again, once = (
            loop.timer(0.05, lambda: seen.append("again")),
            loop.timer(0.12, lambda: seen.append("once"), once=True),
        )
        again.start()
        once.start()
        self.assertTrue(loop.until(lambda: len(seen) == 4, 10))
        self.assertEqual(seen, ["again", "again", "once", "again"])
        self.assertEqual((again.active, once.active), (True, False))
        again.stop()
        self.assertFalse(loop.until(lambda: len(seen) > 4, 0.5))

    def test_a_timer_that_is_started_anew_begins_its_time_anew(self) -> None:
        loop, seen = Clock(), list[float]()
        timer = loop.timer(0.1, lambda: seen.append(loop.time), once=True)
        timer.start()
        loop.until(lambda: loop.time > 0.06, 1)
        timer.start()
        loop.until(lambda: seen, 1)
        self.assertGreater(seen[0], 0.15)
        self.assertFalse(loop.until(lambda: len(seen) > 1, 0.5))

    def test_work_of_another_thread_is_done_in_this_one(self) -> None:
        loop, threads = PlainLoop(), list[threading.Thread]()
        other = threading.Thread(target=lambda: loop.call(lambda: threads.append(threading.current_thread())))
        other.start()
        other.join()
        self.assertEqual(threads, [])
        self.assertTrue(loop.until(lambda: threads, 5))
        self.assertEqual(threads, [threading.current_thread()])


class Number:
    """A step that adds to a list of numbers what it is of."""

    def __init__(self, into: list[int], number: int, merge: int = ALONE) -> None:
        self.into, self.numbers, self.merge, self.words = into, [number], merge, f"number {number}"

    def redo(self) -> None:
        self.into.extend(self.numbers)

    def undo(self) -> None:
        del self.into[-len(self.numbers) :]

    def absorb(self, later: object) -> bool:
        if not isinstance(later, Number):
            return False
        self.numbers += later.numbers
        return True


class Undo(unittest.TestCase):
    def test_back_and_forth_and_a_new_step_forgets_what_could_be_done_again(self) -> None:
        stack, numbers = UndoStack(), list[int]()
        for number in (1, 2, 3):
            stack.push(Number(numbers, number))
        stack.undo()
        stack.undo()
        self.assertEqual((numbers, stack.undone_next, stack.redone_next), ([1], "number 1", "number 2"))
        stack.redo()
        self.assertEqual(numbers, [1, 2])
        stack.push(Number(numbers, 4))
        self.assertEqual((numbers, stack.redone_next, stack.count()), ([1, 2, 4], "", 3))
        for _ in range(5):
            stack.undo()
        self.assertEqual((numbers, stack.undone_next), ([], ""))

    def test_steps_with_the_same_mark_are_one(self) -> None:
        stack, numbers = UndoStack(), list[int]()
        for number, merge in ((1, 7), (2, 7), (3, 8), (4, ALONE), (5, ALONE)):
            stack.push(Number(numbers, number, merge))
        self.assertEqual(stack.count(), 4)
        for left in ([1, 2, 3, 4], [1, 2, 3], [1, 2], []):
            stack.undo()
            self.assertEqual(numbers, left)
        stack.redo()
        self.assertEqual(numbers, [1, 2])

    def test_it_tells_when_something_else_can_be_undone(self) -> None:
        stack, told = UndoStack(), list[str]()
        stack.changed.subscribe(lambda: told.append(stack.undone_next))
        stack.undo()
        stack.push(Number([], 1))
        stack.undo()
        stack.redo()
        self.assertEqual(told, ["number 1", "", "number 1"])
