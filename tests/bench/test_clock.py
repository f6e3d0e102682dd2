"""The rig's clock: however its time is cut up, the same happens. What rests is passed over, and must be as if it were not."""

from __future__ import annotations

import random
import unittest

import numpy as np

from idler.bench.rigs.rig import load
from idler.bench.world import World
from idler.core.profile import cia402 as c
from idler.core.values.roles import OutputRole
from tests.bench.trials import Stand

RIGS = ("verge", "longcase", "fusee")
BEGUN = 25_000  # ticks until the speeds of the spindle since power-on are written down; before that nothing rests
DOINGS, SHORT, LONG = 16, 8, 2500  # and ticks after each of them: an edge may still be due, or all at rest


class Driven:
    """A rig to which one seed always does the same; only the pieces differ in which its time passes."""

    def __init__(self, rig: str, seed: int, piece: int) -> None:
        truth = load(rig)
        self.stand = Stand(truth, truth.told, seed=seed)
        self.world, self._piece = self.stand.world, piece
        self._dice = random.Random(seed)
        self.ran = 0
        self.events: list[bytes] = []
        self._pass(BEGUN)
        self.world.outputs[0]["role"] = OutputRole.SPINDLE_ON.raw
        self.world.wires["bounce"], self.world.inputs["filter"] = 4000.0, 7000  # µs: they outlast a tick

    def _pass(self, ticks: int) -> None:
        for begin in range(0, ticks, self._piece):
            self.events += [event.tobytes() for event in self.world.run(min(self._piece, ticks - begin))]
            self.ran += 1

    def do(self) -> None:
        dice, world = self._dice, self.world
        for _ in range(DOINGS):
            drive = self.stand.drives[dice.randrange(len(self.stand.drives))]
            wire = world.wires[dice.randrange(len(world.wires))]
            what = dice.randrange(8)
            if what == 0:
                drive.set_mode(c.MODE_POSITION)
                drive.target_position = c.raw_position(dice.uniform(-2, 2))
                drive.profile_speed = c.raw_speed(dice.uniform(100, 900))
                drive.control(c.ENABLE)
                drive.control(c.ENABLE | c.NEW_SETPOINT | c.RELATIVE | c.AT_ONCE)
            elif what == 1:
                wire["held"] = 1 - wire["held"]
            elif what == 2:
                wire["held"], wire["loose_rate"] = 0, dice.choice((0.0, 0.0, 0.0, 5.0))
            elif what == 3:
                ctl = world.controller
                ctl["engaged_told"], ctl["wanted"], ctl["asked_level"] = 1, dice.choice((0, 1)), dice.randrange(1000)
            elif what == 4:
                for word in dice.choice(((c.QUICK_STOP,), (c.SHUTDOWN, c.SWITCH_ON, c.ENABLE), (c.SHUTDOWN,))):
                    drive.control(word)
            elif what == 5:
                world.controller["oil_on"], world.controller["oil_of"] = dice.choice(((0, 1), (30, 4)))
                world.controller["oil_every"] = 50
            elif what == 6:
                world.hold_flight()
            self._pass(dice.randrange(1, SHORT))
            self._pass(dice.randrange(1, LONG))
            world.wires["loose_rate"] = 0.0


def state(world: World) -> dict[str, bytes]:
    found = {
        name: getattr(world, name).tobytes()
        for name in ("firmware", "plant", "inputs", "wires", "outputs", "ranges", "record", "edges", "indexers")
    }
    samples, moment = world.flight()
    return {
        **found, "controller": world.controller.tobytes(), "spindle": world.spindle.tobytes(),
        "flight": np.ascontiguousarray(samples).tobytes(), "moment": bytes([moment & 0xFF]),
    }  # fmt: skip


class Clock(unittest.TestCase):
    def test_the_same_happens_tick_by_tick_as_at_once(self) -> None:
        for seed, rig in enumerate(RIGS):
            with self.subTest(rig=rig, seed=seed):
                fine, coarse = Driven(rig, seed, 1), Driven(rig, seed, LONG)
                for each in (fine, coarse):
                    each.do()
                self.assertGreater(fine.ran, 20 * coarse.ran)
                self.assertEqual(fine.events, coarse.events)
                one, other = state(fine.world), state(coarse.world)
                self.assertEqual([name for name in one if one[name] != other[name]], [])

    def test_an_edge_that_is_due_and_a_level_that_matures_are_waited_for(self) -> None:
        fine, coarse = World(load("verge")), World(load("verge"))
        for world in (fine, coarse):
            world.wires["bounce"], world.inputs["filter"] = 4000.0, 7000  # µs: both outlast a tick
            world.run(BEGUN)
        for press in range(200):
            begun = 1 + press % 13
            for world in (fine, coarse):
                world.wires[0]["held"] = 1 - world.wires[0]["held"]
            for _ in range(50):
                fine.run(1)
            coarse.run(begun)
            coarse.run(50 - begun)
            with self.subTest(press=press):
                self.assertEqual(coarse.inputs.tobytes(), fine.inputs.tobytes())
                self.assertEqual(coarse.edges.tobytes(), fine.edges.tobytes())
        self.assertGreater(int(fine.controller["written"]), 400)  # they bounced

    def test_a_machine_at_rest_is_passed_over_until_something_comes(self) -> None:
        world = World(load("verge"))
        world.run(BEGUN)
        before = world.firmware.tobytes() + world.plant.tobytes()
        written = int(world.controller["flight_written"])
        world.run(LONG)
        self.assertEqual(world.firmware.tobytes() + world.plant.tobytes(), before)
        self.assertGreater(int(world.controller["flight_written"]), written)  # its record goes on
        was = int(world.inputs[0]["level"])
        world.wires[0]["held"] = 1
        world.run(LONG)
        self.assertEqual((int(world.inputs[0]["raw"]), int(world.inputs[0]["level"])), (1 - was, 1 - was))
