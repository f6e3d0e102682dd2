"""Keeps a path in the controller's buffer: everything here runs on the link's thread, whatever the screen does."""

from __future__ import annotations

import time
from bisect import bisect_right
from collections.abc import Callable
from typing import TYPE_CHECKING

from idler.core.profile.path import (
    BUFFER,
    FEED_RATE,
    MOST_RECORDS,
    NOWHERE,
    RAPID_RATE,
    RECORDS,
    REPORT,
    WAIT_AT,
    WHOLE_RATE,
    PathReport,
    PathState,
    unpack_report,
)

from .along import Along, PathOrder, PathPlace
from .errors import LinkError, LinkLost, NoAnswer, Overtaken
from .pathoutputs import PathOutputs
from .pollers import Poller

if TYPE_CHECKING:
    from .client import Client

FIRST = 1024  # records that are there before it begins: four seconds
MOST_TRIES = 4  # to begin a leg over a line that loses frames
SPARE = 64  # records of the buffer that are left free


class Follower(Poller):
    """`order`, `go_on`, `rates` and `single` may be called from any thread; `place` may be read from any."""

    every = 0.04

    def __init__(self) -> None:
        super().__init__()
        self.place = PathPlace()
        self._order: PathOrder | None = None
        self._not_stopped: Callable[[], bool] = lambda: True
        self._fresh = False  # whether the order is one that was not begun yet
        self._pending = False  # whether the leg is to be begun
        self._tries = 0  # how often that was tried in vain
        self._leg, self._given = 0, 0
        self._ran = 0.0  # s of the legs that are done
        self._goes_on = False
        self._rates = 1.0, 1.0
        self._told: tuple[float, float] | None = None  # what the controller was told of them
        self._single = False
        self._wait_at = NOWHERE
        self._step = False  # one part more was asked for
        self._outputs = PathOutputs()
        self._why = ""  # what it was stopped for by this

    # -- from any thread --------------------------------------------------------------------------------------------

    def order(self, order: PathOrder, not_stopped: Callable[[], bool]) -> None:
        self._not_stopped = not_stopped
        self._order, self._fresh, self._goes_on = order, True, False
        self.place = PathPlace(Along.BEGINS)
        self._wake()

    def go_on(self) -> None:
        """Begins the leg that waits, or the next part of a single block."""
        self._goes_on = self._step = True
        self._wake()

    def rates(self, feed: float, rapid: float) -> None:
        self._rates = feed, rapid
        self._wake()

    def single(self, on: bool) -> None:
        self._single = on
        self._wake()

    def forget(self) -> None:
        """The controller is gone, or has started anew: the place is not known to it any more."""
        if not self.place.along.over:
            self._become(Along.LEFT)
        self.wanted = False

    def _wake(self) -> None:
        self.wanted, self._next = True, 0.0

    # -- on the link's thread ---------------------------------------------------------------------------------------

    def take(self, client: Client) -> None:
        try:
            super().take(client)
        except Overtaken:
            self._become(Along.STOPPED)
        except NoAnswer as why:  # of a line that loses frames; the buffer holds for seconds
            self._tries += self._pending
            if self._tries > MOST_TRIES:
                self._refuse(client, why.sentence)
        except LinkLost:
            raise
        except LinkError as why:
            self._refuse(client, why.sentence)

    def _look(self, client: Client) -> None:
        if self._order is None or (self.place.along.over and not self._fresh):
            self.wanted = False
            return
        if self._fresh:
            self._fresh, self._leg, self._ran = False, 0, 0.0
            self._told, self._wait_at, self._step = None, -1, False
            self._outputs, self._why = PathOutputs(self._order.turning), ""
            self._next_leg()
        if self.place.along is Along.ASKS:
            if not self._not_stopped():
                raise Overtaken("STOP came first.")
            self._pending = self._goes_on
            if not self._pending:
                return
        if self._pending:
            self._begin(client)
            return
        report = self._report(client)
        self._tell_rates(client)
        self._tell_wait(client, report)
        if self._judge(client, report):
            self._fill(client, report)

    def _next_leg(self) -> None:
        assert self._order is not None
        self._tries = 0
        self._pending = not self._order.legs[self._leg].waits
        if not self._pending:
            self._goes_on = False
            self.place = PathPlace(Along.ASKS, self._leg)

    def _begin(self, client: Client) -> None:
        """A leg from where the axes stand."""
        assert self._order is not None
        leg = self._order.legs[self._leg]
        if self._tries and self._report(client).state in (PathState.RUNS, PathState.WAITS):
            self._begun()  # only its answer was lost
            return
        if leg.asked is not None and not self._outputs.switched(client, leg.asked, self._not_stopped):
            return  # looked at again and again: nothing that takes long comes before it
        self._given = 0
        if len(leg.places) > 1:
            self._give(client, FIRST)
            self._tell_rates(client)
            self._wait_at = -1
            self._tell_wait(client, PathReport())
            client.drives.follow(self._order.slots, self._not_stopped)
            self._begun()
        else:
            self._pending = False
            self._ended(client)

    def _begun(self) -> None:
        self._pending, self._tries = False, 0
        self.place = PathPlace(Along.RUNS, self._leg, ahead=self._given, ran=self._ran)
        self._next = 0.0  # the rest of it at once

    def _judge(self, client: Client, report: PathReport) -> bool:
        """Whether its leg goes on."""
        along = {
            PathState.RUNS: Along.RUNS, PathState.WAITS: Along.HELD, PathState.GIVEN: Along.RUNS,
            PathState.STOPPED: Along.STOPPED, PathState.LEFT: Along.LEFT, PathState.NONE: Along.LEFT,
        }.get(report.state)  # fmt: skip
        if along is None:
            self._ran += report.ran / 1000
            self._ended(client)
            return False
        self.place = PathPlace(
            along,
            self._leg,
            report.at,
            report.line,
            report.rate,
            max(0, report.given - int(report.at) - 1),
            self._ran + report.ran / 1000,
            self._why,
        )
        if along.over:
            client.let_go_of_outputs()
        elif not self._why and (why := self._outputs.lost(client)):
            self._why = why
            client.drives.stop()
        return not along.over

    def _ended(self, client: Client) -> None:
        assert self._order is not None
        if self._leg + 1 < len(self._order.legs):
            self._leg += 1
            self._next_leg()
            self._next = 0.0
        else:
            last = len(self._order.legs[self._leg].places) - 1
            self.place = PathPlace(Along.ENDED, self._leg, last, self.place.line, ran=self._ran)
            client.let_go_of_outputs()

    def _report(self, client: Client) -> PathReport:
        return client.objects.short(REPORT, "what became of the path", unpack_report)

    def _fill(self, client: Client, report: PathReport) -> None:
        """As much as the buffer takes; STOP is looked for between blocks."""
        assert self._order is not None
        total = len(self._order.legs[self._leg].places)
        until = time.monotonic() + self.every
        while self._given < total and time.monotonic() < until:
            room = BUFFER - SPARE - (self._given - int(report.at))
            if room < min(MOST_RECORDS, total - self._given):
                return
            self._give(client, MOST_RECORDS)

    def _give(self, client: Client, most: int) -> None:
        from idler.core.profile.pathrecords import pack_records

        assert self._order is not None
        leg, first = self._order.legs[self._leg], self._given
        last = min(first + most, len(leg.places))
        data = pack_records(
            first, self._order.slots, leg.places[first:last], leg.lines[first:last], final=last == len(leg.places)
        )
        client.objects.write_block(RECORDS, data, "the path")
        self._given = last

    def _tell_rates(self, client: Client) -> None:
        wanted = self._rates
        if self._told != wanted:
            for where, rate in zip((FEED_RATE, RAPID_RATE), wanted, strict=True):
                client.objects.write(where, round(WHOLE_RATE * rate), "rate of the path")
            self._told = wanted

    def _tell_wait(self, client: Client, report: PathReport) -> None:
        """In single block it waits at the end of each part."""
        assert self._order is not None
        wanted = NOWHERE
        if self._single and self._order.parts:
            ends = self._order.parts[self._leg]
            reached = report.at + 0.5 if self._step or report.state is not PathState.WAITS else report.at - 0.5
            behind = bisect_right(ends, reached)
            wanted = int(ends[behind]) if behind < len(ends) else NOWHERE
            if not self._step and self._wait_at not in (-1, NOWHERE) and report.at <= self._wait_at:
                wanted = self._wait_at
        self._step = False
        if wanted != self._wait_at:
            client.objects.write(WAIT_AT, wanted, "where the path is waited on")
            self._wait_at = wanted

    def _become(self, along: Along) -> None:
        now = self.place
        self.place = PathPlace(along, now.leg, now.at, now.line)
        self._fresh = self._pending = False

    def _refuse(self, client: Client, why: str) -> None:
        """Whatever goes still is stopped on the path: its end will not come."""
        if self.place.along in (Along.RUNS, Along.HELD):
            client.drives.stop()
        client.let_go_of_outputs()
        now = self.place
        self.place = PathPlace(Along.REFUSED, now.leg, now.at, now.line, why=why)
        self._fresh = self._pending = False
        client.let_go_of_outputs()
