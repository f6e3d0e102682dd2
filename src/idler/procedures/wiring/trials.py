"""Proofs of the wiring: the stop and the guard with all that they must do, and every switch touched when it is asked for."""

from __future__ import annotations

from idler.core.homing.outcome import exchanged
from idler.core.machine import Address
from idler.core.profile.cia402 import State
from idler.core.profile.terminals import Condition
from idler.core.proof.claims import Claim, Proof, Witness, duty_key, state, wiring_claims
from idler.core.spindle import has_own_drive
from idler.core.values.parameter import Value
from idler.core.values.roles import InputRole
from idler.core.wiring import Input, contacts, inputs, outputs
from idler.core.wiring.trials import GuardTrial, Held, Outcome, StopTrial, TerminalsSeen, TouchRound
from idler.core.words import capital
from idler.link.events import Asked
from idler.session.session import Session

from ..dead_man import USUAL_LEVEL, DeadMan
from ..engine import Ending, Procedure, Result, Run, Trouble, Wait
from ..questions import choice, done, yes

TRIALS: dict[InputRole, type[StopTrial] | type[GuardTrial]] = {InputRole.STOP: StopTrial, InputRole.GUARD: GuardTrial}


class WatchingProcedure(Procedure):
    """Looks at the terminals while it runs; nothing moves by it, and what stops the machine does not end it."""

    moves = False

    def _incident(self, incident: object) -> None:
        """It is what is looked for."""

    @property
    def now(self) -> int:
        """µs of the controller's clock."""
        return self._session.trace.now

    def claims(self) -> dict[str, Claim]:
        return {claim.key: claim for claim in wiring_claims(self._session.machine)}

    def _refusal(self, claim: Claim) -> str:
        why = self._session.proof_obstacle(claim)
        return f"{capital(claim.label)} cannot be proven now. {why}" if why else ""


class GuidedProof(WatchingProcedure):
    """The stop or the guard: what the person does, what the machine then does, and that it does not come back by itself."""

    leads = True

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.trial: StopTrial | GuardTrial | None = None
        self._dead_man = DeadMan(session)

    def prove(self, role: InputRole) -> str:
        """InputRole.STOP or InputRole.GUARD; a sentence where it cannot begin."""
        item = next((each for each in inputs(self._session.machine) if each.role is role), None)
        if item is None:
            return f"No input is the {role.label} yet. Learn it first."
        claim = self.claims()[duty_key(item.duty)]
        if why := self._refusal(claim):
            return why
        machine = self._session.machine
        turned = has_own_drive(machine) or any(out.role.turns_spindle for out in outputs(machine))
        if role is InputRole.GUARD and not turned:
            return "The guard is proven by a spindle that it ends, and no output switches one on. Give one that role first."
        self.trial = TRIALS[role]()
        self.begin(self._trying(item, claim, self.trial), "")
        return ""

    def _end(self, result: Result) -> None:
        self.trial = None
        self._dead_man.let_go()
        super()._end(result)

    def _trying(self, item: Input, claim: Claim, trial: StopTrial | GuardTrial) -> Run:
        while trial.outcome is Outcome.RUNNING:
            self.say(trial.step)
            changed = self._change(item, trial)
            match trial.wants:
                case "":
                    yield changed
                case "stop.loose" as key:
                    loose = yield from self.ask(yes(key, trial.step))
                    if isinstance(trial, StopTrial):
                        trial.answer(bool(loose))
                    self._session.homes.lose(self._counted, "may stand elsewhere, for a hand has pushed")
                case "stop.holds" as key:
                    felt = yield from self.ask(choice(key, trial.step, {each.key: each.words for each in Held}, ""))
                    if isinstance(trial, StopTrial) and felt is not None:
                        trial.felt(next(each for each in Held if each.key == felt))
                case key:  # the person does it, and the machine answers
                    yield from self.ask(done(key, trial.step, by_world=True), unless=changed)
                    if self._answered and key == "stop.power":
                        self._session.power(True)
                    elif self._answered and key == "guard.run":
                        self._run_spindle()
                    if self._answered:
                        yield changed
        passed = trial.outcome is Outcome.PASSED
        # a stop is borne out by an axis that a hand could push; anything else by its terminal
        witness = Witness.EYES if item.role is InputRole.STOP else Witness.TOUCH
        self.keep_proof(claim, passed, trial.result, witness)
        words = f"{capital(item.duty.label)}: {trial.result}."
        self._session.tell("plain" if passed else "warn", words if passed else f"Not proven. {words}")
        return Result.of(passed, words, self._edit_of(trial))

    def _edit_of(self, trial: StopTrial | GuardTrial) -> dict[Address, Value]:
        """Of a controller that makes the line itself, the enable line the other way round, where every motor held."""
        machine, enable = self._session.machine, Address(None, "signals.enable_inverted")
        every = isinstance(trial, StopTrial) and trial.hand is Held.EVERY and not machine.made_of_parts
        return {enable: not machine[enable]} if every else {}

    @property
    def _counted(self) -> list[int]:
        """Axes whose place nobody sees that was not told to them: they have no encoder."""
        machine = self._session.machine
        return [] if machine.made_of_parts else [axis.slot for axis in machine.axes if not axis.flag("loop.measured")]

    def _change(self, item: Input, trial: StopTrial | GuardTrial) -> Wait:
        """Feeds the trial with what is seen; over when it asks for something else, or has ended."""
        before = trial.step, trial.wants

        def changed() -> bool:
            trial.feed(self._seen(item))
            return trial.outcome is not Outcome.RUNNING or (trial.step, trial.wants) != before

        return changed

    def _seen(self, item: Input) -> TerminalsSeen:
        panel, axes = self._session.panel, self._session.heard_axes
        return TerminalsSeen(
            self.now, item.made(panel.is_closed(item.slot)), any(axis.state.powered for axis in axes),
            bool(axes) and all(axis.state in (State.FAULT, State.FAULT_REACTION) for axis in axes),
            bool(panel.conditions & Condition.SPINDLE), self._session.power_asked,
        )  # fmt: skip

    def _run_spindle(self) -> None:
        if why := self._session.spindle_obstacle():
            raise Trouble(why)
        self._dead_man.hold(Asked(run=1, level=USUAL_LEVEL))


class TouchProof(WatchingProcedure):
    """Every switch but stop and guard, asked for by its name: each is proven by being made and let go when it was asked
    for."""

    round: TouchRound | None = None

    def prove(self) -> str:
        """A sentence where it cannot begin."""
        machine, claims, wanted = self._session.machine, self.claims(), list[int]()
        touched = [item for item in inputs(machine) if duty_key(item.duty) in claims and item.role not in TRIALS]
        if not touched:
            return "No input is told to be a switch that a hand can press. Learn them first."
        for item in touched:
            claim = claims[duty_key(item.duty)]
            if state(machine, claim, self._session.proofs) is Proof.PROVEN:
                continue
            if why := self._refusal(claim):
                return why
            wanted += [item.slot] * contacts(machine, item)
        self.round = TouchRound(wanted, self._session.made_now())
        self.begin(self._touching(self.round), "")
        return ""

    def _end(self, result: Result) -> None:
        self.round = None
        super()._end(result)

    def _touching(self, touching: TouchRound) -> Run:
        proven: list[tuple[int, str]] = []
        nothing = touching.asked is None

        def changed() -> bool:
            before = touching.asked, touching.wrong, touching.of_chain, touching.made_already
            touched = touching.feed(self.now, self._session.made_now())
            if touched is not None:
                proven.append(touched)
            return touched is not None or (
                touching.asked, touching.wrong, touching.of_chain, touching.made_already
            ) != before  # fmt: skip

        while touching.asked is not None:
            words = self._words(touching)
            self.say(words)
            answer = yield from self.ask(
                choice("touch.switch", words, self._ways(touching), by_world=True), unless=changed
            )
            if answer == "swapped":
                return self._swapped(touching)
            if answer == "rest":
                return self._rests_otherwise(touching)
            if answer == "later":
                touching.skip()
            elif answer == "no_more" and (told := touching.no_more()) is not None:
                proven.append(told)
            while proven:
                slot, result = proven.pop()
                claim = self.claims()[duty_key(inputs(self._session.machine)[slot].duty)]
                self.keep_proof(claim, True, result, Witness.TOUCH)
        touched = "Every switch has been made and let go when it was asked for: all are proven."
        words = "Every switch is proven already." if nothing else touched
        self._session.tell("plain", words)
        return Result(Ending.PROVEN, words)

    def _ways(self, touching: TouchRound) -> dict[str, str]:
        """What can be answered instead of pressing it."""
        ways: dict[str, str] = {}
        if touching.wrong is not None and touching.asked is not None:
            asked = inputs(self._session.machine)[touching.asked].duty.label
            ways["swapped"] = f"I did press the {asked}: the wires are swapped"
        if touching.made_already:
            ways["rest"] = "Nothing presses it"
        if 0 < touching.of_chain[0] < touching.of_chain[1]:
            ways["no_more"] = "It has no more switches"
        if len(set(touching.left)) > 1:
            ways["later"] = "Later"
        return ways

    def _words(self, touching: TouchRound) -> str:
        """Which switch is to be touched, and what another terminal's answer means."""
        wired = inputs(self._session.machine)
        assert touching.asked is not None
        asked, left = wired[touching.asked], len(set(touching.left)) - 1
        words = f"Press and release the {asked.duty.label}."
        done, of = touching.of_chain
        if asked.role.chained and of > 1:
            words = f"Press and release each switch of the {asked.duty.label}, one after the other: {done} of {of} are touched."
        if touching.made_already:
            label = asked.duty.label
            return f"Input {asked.name} says that the {label} is pressed already. Free it, then press and release it."
        if touching.wrong is not None:
            other = wired[touching.wrong]
            told = f"told to be the {other.duty.label}" if other.role is not InputRole.NONE else "which has no role"
            return f"{words} Terminal {other.name} answered, {told}; terminal {asked.name} did not."
        return f"{words} {left} more after it." if left else words

    def _rests_otherwise(self, touching: TouchRound) -> Result:
        """Eyes have seen that nothing presses it, and its terminal says that it is made."""
        assert touching.asked is not None
        item = inputs(self._session.machine)[touching.asked]
        words = f"input {item.name} says that it is pressed, and nothing presses it"
        self.keep_proof(self.claims()[duty_key(item.duty)], False, words, Witness.EYES)
        rest = "open" if item.closed_at_rest else "closed"
        self._session.set_values({Address(item.slot, "input.rest"): rest}, f"input {item.name} is {rest} at rest")
        words = f"{capital(words)}: its contact is told to be {rest} at rest now. Send it, then touch again."
        self._session.tell("plain", words)
        return Result(Ending.NOT_PROVEN, words)

    def _swapped(self, touching: TouchRound) -> Result:
        """The person did press what was asked for: the two wires are at each other's terminals."""
        assert touching.wrong is not None and touching.asked is not None
        machine = self._session.machine
        wired = inputs(machine)
        asked, other = wired[touching.asked], wired[touching.wrong]
        for item, answered in ((asked, other), (other, asked)):
            claim = self.claims().get(duty_key(item.duty))
            if claim is not None:
                words = f"when it was pressed, terminal {answered.name} answered"
                self._session.prove(claim, False, words, Witness.TOUCH)
        self._session.set_values(exchanged(machine, asked.slot, other.slot), f"{asked.name} and {other.name} exchanged")
        words = f"Terminals {asked.name} and {other.name} have each other's roles now. Send them, then touch again."
        self._session.tell("plain", words)
        return Result(Ending.NOT_PROVEN, words)
