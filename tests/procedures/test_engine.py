"""The engine alone: steps, questions and ends, with a session that has no controller."""

from __future__ import annotations

import tempfile
import unittest
from pathlib import Path
from unittest import mock

from idler import new_machine
from idler.core.errors import Refusal
from idler.core.incident import Incident
from idler.core.machine import Address
from idler.core.profile.cia402 import DRIVE_TROUBLE, LAGGED, LIMIT_MET
from idler.core.profile.codec import Place
from idler.core.proof.claims import Proof, Witness, direction_claim, ends_claim, state
from idler.link.events import AxisState
from idler.procedures.engine import Ending, Procedure, Result, Run, Trouble
from idler.procedures.questions import choice, done, yes
from idler.procedures.travel.run import TravelRun
from idler.session.loop import PlainLoop
from idler.session.session import Session
from idler.shelf.shelf import Shelf


class Alone(Procedure):
    """It needs no axis."""

    what = "a trial of the engine"

    @property
    def _blind(self) -> bool:
        return False


class EngineCase(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        new_machine("verge", shelf=folder.name)
        self.loop = PlainLoop()
        self.session = Session(Shelf(Path(folder.name)), "verge", self.loop)
        self.addCleanup(self.session.close)
        self.run_ = Alone(self.session)
        self.gate = False

    def until_gate(self) -> bool:
        return self.gate

    def ended(self) -> Result:
        self.assertTrue(self.loop.until(lambda: not self.run_.running, 5))
        assert self.run_.result is not None
        return self.run_.result


class Engine(EngineCase):
    def test_it_goes_on_where_a_step_has_ended_and_ends_with_its_result(self) -> None:
        told: list[str] = []
        self.run_.ended.subscribe(lambda result: told.append(result.words))

        def steps() -> Run:
            yield self.until_gate
            self.run_.say("half of it")
            yield lambda: True
            return Result(Ending.DONE, "all of it")

        self.run_.begin(steps(), "it begins")
        self.assertEqual((self.run_.words, self.session.floor.words), ("it begins", "a trial of the engine"))
        self.gate = True
        self.assertEqual(self.ended().words, "all of it")
        self.assertEqual((told, self.session.floor.words), (["all of it"], ""))

    def test_a_question_is_asked_until_it_is_answered(self) -> None:
        answers: list[object] = []

        def steps() -> Run:
            answers.append(
                (yield from self.run_.ask(choice("direction.seen", "Where?", {"plus": "left", "minus": "right"})))
            )
            answers.append((yield from self.run_.ask(yes("stop.loose", "Loose?"))))
            return Result(Ending.DONE, "")

        self.run_.begin(steps(), "")
        with self.assertRaises(Refusal):
            self.run_.answer("up")
        assert self.run_.question is not None
        self.assertEqual(self.run_.question.key, "direction.seen")
        self.run_.answer("minus")
        self.assertEqual(self.run_.question.key, "stop.loose")  # it goes on at once
        self.run_.answer("no")
        self.ended()
        self.assertEqual(answers, ["minus", False])
        with self.assertRaises(Refusal):
            self.run_.answer("yes")

    def test_who_is_told_of_a_question_may_answer_at_once(self) -> None:
        self.run_.changed.subscribe(lambda: self.run_.answer("yes") if self.run_.question is not None else None)

        def steps() -> Run:
            loose = yield from self.run_.ask(yes("stop.loose", "Loose?"))
            return Result.of(bool(loose), "it is loose", figure=1.0)

        self.run_.begin(steps(), "")
        self.assertEqual(self.ended(), Result(Ending.PROVEN, "it is loose", {"figure": 1.0}))

    def test_an_answer_that_was_there_before_the_question_is_no_eye_and_no_instrument(self) -> None:
        claim = direction_claim(self.session.machine, 0)
        for beforehand, gathered, kept in (
            (True, Witness.EYES, Witness.WORD), (True, Witness.INSTRUMENT, Witness.WORD),
            (True, Witness.SWITCH, Witness.SWITCH), (False, Witness.EYES, Witness.EYES),
        ):  # fmt: skip

            def steps(gathered: Witness = gathered) -> Run:
                yield from self.run_.ask(yes("stop.loose", "Loose?"))
                self.run_.keep_proof(claim, True, "it is loose", gathered)
                return Result(Ending.PROVEN, "it is loose")

            with mock.patch.object(self.session, "proof_obstacle", return_value=""):
                self.run_.begin(steps(), "")
                self.run_.answer("yes", beforehand=beforehand)
                self.ended()
            self.assertIs(self.session.proofs[claim.key].witness, kept)

    def test_that_it_may_go_on_may_be_said_before(self) -> None:
        claim = direction_claim(self.session.machine, 0)

        def steps() -> Run:
            yield from self.run_.ask(done("scale.zero", "Set it to zero."))
            self.run_.keep_proof(claim, True, "read", Witness.INSTRUMENT)
            return Result(Ending.PROVEN, "")

        with mock.patch.object(self.session, "proof_obstacle", return_value=""):
            self.run_.begin(steps(), "")
            self.run_.answer("", beforehand=True)
            self.ended()
        self.assertIs(self.session.proofs[claim.key].witness, Witness.INSTRUMENT)

    def test_the_world_may_answer(self) -> None:
        def steps() -> Run:
            said = yield from self.run_.ask(yes("stop.loose", "Loose?"), unless=self.until_gate)
            return Result(Ending.DONE, repr(said))

        self.run_.begin(steps(), "")
        self.gate = True
        self.assertEqual((self.ended().words, self.run_.question), ("None", None))

    def test_a_free_question_leaves_the_floor_and_is_answered_only_where_nothing_else_runs_or_moves(self) -> None:
        def steps() -> Run:
            yield from self.run_.ask(yes("stop.loose", "Loose?"), free=True)
            return Result(Ending.DONE, "")

        self.run_.begin(steps(), "")
        self.assertEqual(self.session.floor.words, "")
        other, moving = object(), mock.patch.object(type(self.session), "moving", property(lambda _: True))
        self.session.floor.take(other, "something else")
        with self.assertRaisesRegex(Refusal, "Something else is running. Esc or STOP ends it. Answer when"):
            self.run_.answer("yes")
        self.session.floor.leave(other)
        with moving, self.assertRaisesRegex(Refusal, "the machine still moves. Answer when it has come to rest"):
            self.run_.answer("yes")
        self.assertIsNotNone(self.run_.question)  # nothing is lost: it is asked still
        self.run_.answer("yes")
        self.assertEqual(self.ended().words, "")

    def test_where_the_world_answers_while_something_else_runs_it_ends(self) -> None:
        def steps() -> Run:
            yield from self.run_.ask(yes("stop.loose", "Loose?"), unless=self.until_gate, free=True)
            return Result(Ending.DONE, "")

        self.run_.begin(steps(), "")
        self.session.floor.take(object(), "something else")
        self.gate = True
        self.assertEqual(self.ended().words, "Something else is running. Esc or STOP ends it.")

    def test_stop_trouble_and_a_refusal_end_it_anywhere(self) -> None:
        def steps() -> Run:
            yield self.until_gate
            raise Trouble("it cannot go on", Ending.NOT_PROVEN)

        for end, ending, words in (
            (self.session.stop, Ending.STOPPED, "It was stopped."),
            (lambda: self.session.failed.publish("try"), Ending.STOPPED, "A step of it was not done."),
            (lambda: setattr(self, "gate", True), Ending.NOT_PROVEN, "it cannot go on"),
        ):  # fmt: skip
            self.run_.begin(steps(), "")
            end()
            self.assertEqual((self.ended().end, self.ended().words), (ending, words))
            self.assertEqual(self.session.floor.words, "")


class PutBack(EngineCase):
    def test_it_is_settled_only_when_the_controller_has_taken_what_is_put_back(self) -> None:
        def steps() -> Run:
            yield self.until_gate
            return Result(Ending.DONE, "")

        with (
            mock.patch.object(type(self.session), "connected", property(lambda _: True)),
            mock.patch.object(self.session.link, "try_values") as told,
        ):
            self.run_.begin(steps(), "")
            self.run_._spoilt = {Place(0x4003, 1): 7}
            self.session.stop()
            self.assertTrue(self.loop.until(lambda: told.called, 5))
            self.loop.until(lambda: False, 0.1)
            self.assertFalse(self.run_.settled)
            told.assert_called_once_with({Place(0x4003, 1): 7})
            self.session.done.publish("try")
            self.assertTrue(self.loop.until(lambda: self.run_.settled, 5))


class GivesUp(unittest.TestCase):
    """A drive that gives up where it is slowly driven to an end has met iron there; anywhere else it stops the run."""

    def test_only_the_axis_that_is_driven_and_only_while_it_runs(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            new_machine("verge", shelf=folder)
            session = Session(Shelf(Path(folder)), "verge", PlainLoop())
            self.addCleanup(session.close)
            claim = ends_claim(session.machine, 2)
            for incident, driving, end in (
                (Incident(DRIVE_TROUBLE, 2), (2, "low", 60.0), Ending.NOT_PROVEN),
                (Incident(LAGGED, 2), (2, "low", 60.0), Ending.NOT_PROVEN),
                (Incident(DRIVE_TROUBLE, 1), (2, "low", 60.0), Ending.STOPPED),
                (Incident(LIMIT_MET, 2), (2, "low", 60.0), Ending.STOPPED),
                (Incident(DRIVE_TROUBLE, 2), None, Ending.STOPPED),
            ):
                session.proven.put({})
                run = TravelRun(session)

                def steps() -> Run:
                    yield lambda: False
                    return Result(Ending.DONE, "")

                with (
                    mock.patch.object(session, "proof_obstacle", return_value=""),
                    mock.patch.object(session, "link", mock.Mock(axes=(AxisState(),) * 3)),
                ):
                    run.begin(steps(), "")
                    run._driving = driving
                    session.stopped.publish(incident)
                assert run.result is not None
                self.assertIs(run.result.end, end, incident)
                kept = Proof.FAILED if end is Ending.NOT_PROVEN else Proof.ENTERED
                self.assertIs(state(session.machine, claim, session.proofs), kept)


class Round(unittest.TestCase):
    def test_on_an_endless_axis_a_shift_is_the_shorter_way_round(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            new_machine("verge", shelf=folder)
            session = Session(Shelf(Path(folder)), "verge", PlainLoop())
            self.addCleanup(session.close)
            run = TravelRun(session)
            session.set_values({Address(3, "axis.kind"): "endless"})
            self.assertTrue(session.machine.axis(3).wraps)
            for place, before, shift in (
                (359.95, 0.05, -0.1),
                (0.05, 359.95, 0.1),
                (90.0, 89.0, 1.0),
                (10.0, 350.0, 20.0),
            ):
                run.place = place
                with mock.patch("idler.procedures.witness.home_switch", return_value=5):
                    self.assertAlmostEqual(run.shift_since(3, before), shift)
