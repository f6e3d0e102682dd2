"""Somebody beside a machine of the bench: does what is asked for, and says what eyes and instruments see, and no more."""

from __future__ import annotations

from typing import Any

import numpy as np

from idler import OpenMachine
from idler.core.machine import Address
from idler.core.trial import symmetry
from idler.core.values.roles import STOP_LINES, InputRole, OutputRole
from idler.core.wiring import Duty, inputs, missing, outputs
from idler.core.wiring.trials import held_of
from idler.procedures.geometry.square import MARKS
from idler.procedures.questions import Question
from idler.procedures.wiring.learn import duty_word
from tests.support import Hands

SWITCHES = {
    "stop": "emergency stop", "guard": "guard", "probe": "touch plate", "ready": "drive ready", "trouble": "turret trouble",
}  # fmt: skip
OF_AXIS = {
    InputRole.HOME: "home", InputRole.HOME_SECOND: "home, second motor", InputRole.LIMIT_LOW: "low",
    InputRole.LIMIT_HIGH: "high", InputRole.INDEX: "index", InputRole.HOME_LIMIT: "home", InputRole.TROUBLE: "trouble",
}  # fmt: skip
FLAT = 0.002  # mm: what lies no further in belongs to a flat
SEEN = 1.2  # mm: shorter ones are what a round line shows, too
RADIUS = 60  # mm of an arm on an axis that turns
CENTRES = 280  # mm
TOUCH, LONGEST_TOUCH = 0.2, 3.0  # s
STEADY = 1.5  # s without a change of the speed
PRESSED = 0.5  # s for which a switch is held, on the rig's clock


class Person:
    """way: how the spindle is to be ended. asked: the keys of all questions so far. lowers: mm by which a dial is lowered onto
    the bed."""

    def __init__(self, machine: OpenMachine, hands: Hands) -> None:
        self.machine, self.hands = machine, hands
        self.asked: list[str] = []
        self.way = ""
        self.lowers = 30.0
        self.in_the_room = False  # whether the bench goes at the pace of the room
        self.hangs = 8.0  # mm over the bed: the ball of a probe that is put in; 0: it hangs there already
        self.across = 1400.0  # mm from the first side of a beam to the second
        self._before: dict[str, float] = {}
        self._started = 0.0  # the stopwatch
        self._speeds: list[tuple[float, float]] = []

    def look_first(self, axis: str = "") -> None:
        """Where an axis, or each of them, stands before it is moved, so that it is seen which way it goes."""
        for each in self.hands.ask(do="look")["axes"]:
            if not axis or each["name"][0] == axis:
                self._before[each["name"]] = each["at"]

    def switch(self, duty: Duty) -> str:
        """What the rig calls the switch of a duty; empty where it has none."""
        known = [item["name"] for item in self.hands.ask(do="look")["switches"]]
        if duty.role in STOP_LINES:
            return f"turret line {STOP_LINES.index(duty.role) + 1}"
        if duty.role is InputRole.PULSE:
            return "spindle magnet"
        of_axis = [f"{duty.axis} {OF_AXIS.get(duty.role, '')}", f"{duty.axis} index" if duty.role.homes else ""]
        named = [*of_axis, SWITCHES.get(duty.role.key, duty.role.key)]
        return next((name for name in named if name in known), "")

    def touch(self, name: str) -> None:
        self.hands.ask(do="press", switch=name)
        if self.in_the_room:
            self.machine.loop.timer(PRESSED, lambda: self.hands.ask(do="release", switch=name), once=True).start()
            return
        self.hands.ask(do="run", seconds=PRESSED)
        self.hands.ask(do="release", switch=name)

    def __call__(self, question: Question[Any]) -> str | None:
        self.asked.append(question.key)
        station = question.key.partition(".")[0]
        answer = getattr(self, f"of_{station}")
        return answer(question)  # type: ignore[no-any-return]

    # -- wiring ---------------------------------------------------------------------------------------------------

    def of_learn(self, question: Question[Any]) -> str | None:
        there = [duty for duty in missing(self.machine.machine) if self.switch(duty)]
        if question.key == "learn.touch":
            if not there:
                return ""  # this machine has no more
            self.touch(self.switch(there[0]))
            return None
        return duty_word(there[0])

    def of_touch(self, question: Question[Any]) -> str | None:
        if question.key == "touch.switch":
            if "swapped" in (ways := {way.key for way in question.choices}):
                return "swapped"
            if "no_more" in ways:
                return "no_more"
            if "rest" in ways and not self._pressed(self._asked_for):
                return "rest"
            self._touch_for_a_moment(self._asked_for)
        elif question.key == "touch.plate":
            self._touch_for_a_moment(SWITCHES["probe"])
        return "" if question.key == "touch.ready" else None

    @property
    def _asked_for(self) -> str:
        return self.switch(inputs(self.machine.machine)[self._procedure.round.asked].duty)

    def _pressed(self, name: str) -> bool:
        """Whether something presses a switch, as eyes see it once the hand is away."""
        self.hands.ask(do="release", switch=name)
        return bool(self.hands.switch(name)["made"])

    def _touch_for_a_moment(self, name: str) -> None:
        """Until Idler can have seen it: a computer that is busy sees it late."""
        self.hands.ask(do="press", switch=name)
        loop, session = self.machine.loop, self.machine.session
        longest = loop.now() + LONGEST_TOUCH

        def look() -> None:
            there = self.hands.switch(name)
            if session.panel.is_closed(there["input"] - 1) == there["closed"] or loop.now() > longest:
                timer.stop()
                self.hands.ask(do="release", switch=name)

        timer = loop.timer(TOUCH, look)
        timer.start()

    def of_stop(self, question: Question[Any]) -> str | None:
        if question.key in ("stop.loose", "stop.holds"):
            moved = [axis.name for axis in self.machine.machine.axes if axis.whole("axis.output")]
            felt = [self.hands.ask(do="push", axis=name) for name in moved]
            held = held_of([(each["loose"], each["sinks"]) for each in felt])
            return "yes" if held is None else "no" if question.key == "stop.loose" else held.key
        return self.of_guard(question)

    def let_go(self) -> None:
        """Nothing stays pressed by a hand when a step is over."""
        known = {item["name"] for item in self.hands.ask(do="look")["switches"]}
        for way in ("stop", "guard"):
            if SWITCHES[way] in known:
                self.hands.ask(do="release", switch=SWITCHES[way])

    def of_guard(self, question: Question[Any]) -> str | None:
        name, _, what = question.key.partition(".")
        if what not in ("press", "open", "release", "close"):
            return ""
        self.hands.ask(do="press" if what in ("press", "open") else "release", switch=SWITCHES[name])
        return None

    # -- axes -----------------------------------------------------------------------------------------------------

    def of_direction(self, question: Question[Any]) -> str:
        axes = {axis["name"]: axis["at"] for axis in self.hands.ask(do="look")["axes"]}
        others = [name for name, at in self._before.items() if name[0] != question.axis and abs(axes[name] - at) > 0.05]
        if question.key == "direction.hand":
            return "loose" if self.hands.ask(do="push", axis=question.axis)["loose"] else "holds"
        if question.key == "direction.which":
            return others[0][0] if others else "none"
        moved = {name: axes[name] - at for name, at in self._before.items() if name[0] == question.axis}
        if len(moved) > 1 and min(moved.values()) * max(moved.values()) < 0:
            return "apart"
        most = max(moved.values(), key=abs)
        return "plus" if most > 0.05 else "minus" if most < -0.05 else "other" if others else "nothing"

    def of_scale(self, question: Question[Any]) -> str | None:
        return self._dial(question, {"axis": question.axis}, "scale.reading")

    def of_home(self, question: Question[Any]) -> str:
        return "yes" if question.key == "home.clear" else question.choices[0].key

    def of_index(self, question: Question[Any]) -> str:
        return str(self.hands.look(question.axis)["in_front"] or "other")

    # -- geometry -------------------------------------------------------------------------------------------------

    def _dial(self, question: Question[Any], held: dict[str, Any], *reads: str) -> str | None:
        """Sets an instrument to zero, or reads it where the question is one of those; else the person only says yes."""
        do = "read" if question.key in reads else "zero" if question.key.endswith(".zero") else ""
        if not do:
            return ""
        found = self.hands.ask(do=do, instrument=question.instrument, **held)
        if not found["ok"]:  # it does not reach so far: nobody reads anything
            self.machine.session.stop()
            return None
        return f"{found['value']} {found['unit']}".replace("deg", "°") if do == "read" else ""

    def of_play(self, question: Question[Any]) -> str | None:
        if question.key == "play.radius":
            return f"{RADIUS} mm"
        return self._dial(question, self._at_axis(question.axis), "play.follows", "play.reading")

    def _at_axis(self, axis: str) -> dict[str, Any]:
        """A dial against what an axis moves; against an arm on it where it turns."""
        turns = self.hands.look(axis)["rotary"]
        return {"over": "arm", "radius": RADIUS, "axis": axis} if turns else {"axis": axis}

    def of_return(self, question: Question[Any]) -> str | None:
        if question.key == "return.radius":
            return f"{RADIUS} mm"
        return self._dial(question, self._at_axis(question.axis), "return.follows", "return.reading")

    def of_blade(self, question: Question[Any]) -> str | None:
        if question.key == "blade.lay":
            plane = "".join(self.machine.machine.names[slot] for slot in self._procedure.pair)
            self.hands.ask(do="lay", turned=self.asked.count("blade.lay") % 2 == 0, plane=plane)
            return ""
        leg = self._procedure.leg[1].name if question.key == "blade.zero" else question.axis
        return self._dial(question, {"over": leg}, "blade.follows", "blade.begin", "blade.end")

    def of_runout(self, question: Question[Any]) -> str | None:
        feeler = 0.1 if question.key == "runout.follows" else 0.0
        if question.key in ("runout.out", "runout.on"):
            return ""
        held = {"over": "bar", "axis": question.axis, "feeler": feeler}
        return self._dial(question, held, "runout.follows", "runout.reading")

    def of_tailstock(self, question: Question[Any]) -> str:
        if question.key in ("tailstock.head", "tailstock.tail"):
            at = 20 if question.key == "tailstock.head" else CENTRES - 20
            return f"{self.hands.ask(do='diameter', at=at, centres=CENTRES)['value']} mm"
        return f"{CENTRES - 40 if question.key == 'tailstock.apart' else CENTRES} mm"

    def of_level(self, question: Question[Any]) -> str | None:
        if question.key == "level.zero":
            self.lower_the_dial()
        if question.key == "level.probe" and self.hangs:
            self.hands.ask(do="probe", over=self.hangs)
        if question.key in ("level.on", "level.probe"):
            return ""
        return self._dial(question, {"over": "bed"}, "level.follows", "level.reading")

    def lower_the_dial(self) -> None:
        """Jogged down onto the bed, by the keys of the window."""
        slot = self.machine.machine.names.index("Z")
        self.jog_to(slot, self.machine.session.axes[slot].position - self.lowers, 600)

    def of_square(self, question: Question[Any]) -> str:
        if question.key == "square.across":
            return f"{self.across} mm"
        if question.key == "square.mark":
            self.hands.ask(do="mark", name=str(self._procedure.corner + 1))
            return ""
        marks = [str(mark) for mark in MARKS[question.key]]
        return f"{self.hands.ask(do='between', marks=marks, instrument=question.instrument)['value']} mm"

    def of_cutter(self, question: Question[Any]) -> str:
        """What an output of the rig switches is on while that output is."""
        if question.key == "cutter.ready":
            return ""
        slot = next(out.slot for out in outputs(self.machine.machine) if out.role is OutputRole.SPINDLE_ON)
        on = self.hands.ask(do="look")["outputs"][slot]
        return "yes" if on is (question.key == "cutter.on") else "no"

    # -- spindle --------------------------------------------------------------------------------------------------

    def of_spindle(self, question: Question[Any]) -> str | None:
        match question.key:
            case "spindle.belt":
                turning = self.machine.machine[Address(None, "spindle.engaged")]
                wanted = self._procedure.slot + 1
                assert wanted != turning
                self._move_belt(wanted)
                return ""
            case "spindle.lies":
                wanted = int(self.machine.machine[Address(None, "spindle.engaged")])  # type: ignore[call-overload]
                if self.hands.ask(do="look")["belt"] == wanted:
                    return "yes"
                self._move_belt(wanted)
                return "no"
            case "spindle.faster":
                return ""
            case "spindle.ready" | "spindle.free":
                self._started = self._clock
                return ""
            case "spindle.seconds":
                self._speeds = []
                self._look_on()
            case "spindle.stands":
                self.machine.loop.timer(0.2, self._see_it_stand, once=True).start()
            case "spindle.way":
                self.machine.loop.timer(0.2, self._see_spindle, once=True).start()  # once it turns
            case "spindle.reading":
                self.machine.loop.timer(0.2, self._read_speed, once=True).start()  # once it is steady
            case _:
                self._end_spindle("press" if question.key == "spindle.end" else "release")
        return None

    @property
    def _clock(self) -> float:
        return float(self.hands.ask(do="look")["clock"])

    def _look_on(self) -> None:
        """Stops the watch where the speed does not change any more."""
        look = self.hands.ask(do="look")
        self._speeds.append((look["clock"], look["spindle"]))
        last = self._speeds[-1][1]
        for clock, speed in reversed(self._speeds):
            if abs(speed - last) > max(1.0, 0.005 * abs(last)):
                break
            began = clock
        if look["clock"] - began > STEADY:
            self._late("spindle.seconds", f"{max(0.1, began - self._started):.2f} s")
        else:
            self.machine.loop.timer(0.02, self._look_on, once=True).start()

    def _see_it_stand(self) -> None:
        if abs(self.hands.ask(do="look")["spindle"]) >= 1:  # rpm
            self.machine.loop.timer(0.2, self._see_it_stand, once=True).start()
        else:
            self._late("spindle.stands", "")

    def _see_spindle(self, before: float = 0.0, again: int = 20) -> None:
        speed = self.hands.ask(do="look")["spindle"]
        changes = abs(speed - before) > 0.02 * abs(speed) or (not speed and again > 10)
        if changes and again:  # it has not come to its speed
            self.machine.loop.timer(0.2, lambda: self._see_spindle(speed, again - 1), once=True).start()
            return
        self._late("spindle.way", "right" if speed > 1 else "left" if speed < -1 else "nothing")

    def _read_speed(self) -> None:
        self._late("spindle.reading", str(self.hands.ask(do="tachometer")["value"]))

    def _late(self, key: str, answer: str) -> None:
        procedure = self.machine.procedure
        if procedure is not None and procedure.question is not None and procedure.question.key == key:
            procedure.answer(answer)

    def _end_spindle(self, do: str) -> None:
        if self.way == "esc":
            self.machine.session.stop()
        elif self.way == "link":
            self.hands.ask(do="cut" if do == "press" else "mend")
        elif self.way == "ready":
            self.hands.ask(do="trip" if do == "press" else "restore")
        else:
            self.hands.ask(do=do, switch=SWITCHES[self.way])

    def of_encoder(self, _question: Question[Any]) -> str:
        self._at_rest(do="spin", turns=self._procedure.turns)
        return ""

    def _move_belt(self, place: int) -> None:
        self._at_rest(do="belt", place=place)

    def _at_rest(self, **hand: Any) -> None:
        """Does something that hands do only while the spindle stands."""
        for _ in range(100):
            if self.hands.ask(**hand)["ok"]:
                return
            self.machine.wait(lambda: False, 0.1)
        raise AssertionError("the spindle does not come to rest")

    # -- trial ----------------------------------------------------------------------------------------------------

    def of_figure(self, question: Question[Any]) -> str:
        match question.key:
            case "figure.seen":
                lines = self.hands.ask(do="drawn")["lines"]
                found = symmetry.recognised(np.array(max(lines, key=len))) if lines else None
                return found.key if found is not None else "other"
            case "figure.size":
                return f"{self.hands.ask(do='across', along=question.axis, instrument='caliper')['value']} mm"
            case "figure.flats":
                return {(): "none", ("X",): "first", ("Y",): "second"}.get(tuple(self.flats), "both")
            case _:
                return f"{self.flats[question.axis]:.2f} mm"

    @property
    def flats(self) -> dict[str, float]:
        """mm over which what is drawn is flat where an axis turns round, of those where it is to be seen."""
        places = np.array([place for line in self.hands.ask(do="drawn")["lines"] for place in line])
        found = {}
        for column, name in enumerate("XY"):
            there = places[places[:, column] > places[:, column].max() - FLAT][:, 1 - column]
            found[name] = float(there.max() - there.min())
        return {name: length for name, length in found.items() if length > SEEN}

    def of_program(self, question: Question[Any]) -> str:
        if question.key == "program.zero":
            self.to_the_middle()
            if "Z" in self.machine.machine.names and "Y" in self.machine.machine.names:
                self.hands.ask(do="paper")
        return ""

    def to_the_middle(self) -> None:
        """Each axis by its jog keys to the middle of its travel."""
        session = self.machine.session
        for axis in self.machine.machine.axes:
            low, high = (float(axis.number(f"travel.{end}")) for end in ("low", "high"))
            if not axis.rotary and low < high:
                self.jog_to(axis.slot, (low + high) / 2, float(axis.number("pace.top_speed")) / 2)
        assert self.machine.wait(lambda: not session.moving, 20)

    def jog_to(self, slot: int, place: float, speed: float) -> None:
        session = self.machine.session
        session.link.jog_step(slot, place - session.axes[slot].position, speed)
        assert self.machine.wait(lambda: abs(session.axes[slot].position - place) < 0.1 and not session.moving, 30), (
            slot
        )

    def of_action(self, question: Question[Any]) -> str:
        return "yes" if question.key == "action.ask" else "7"

    @property
    def _procedure(self) -> Any:
        """What runs now, whichever it is."""
        return self.machine.procedure
