"""What the link tells, turned into facts on the session and words for the person, on the thread of the window."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING

from idler.core.controller.standing import Standing
from idler.core.incident import Incident
from idler.core.profile.cia402 import LINK_CUT, RESTARTED, State
from idler.core.values.units import several
from idler.link import events

if TYPE_CHECKING:
    from .session import Session


TOGETHER = 1.0  # s within which several drives stop for the same cause


class LinkEvents:
    def __init__(self, session: Session) -> None:
        self._session = session
        self._homed: tuple[bool, ...] = ()
        self._last: tuple[Incident, float] | None = None  # and when it was heard, s

    def heard(self, event: events.Event) -> None:
        """Called on the link's thread."""
        self._session.loop.call(lambda: self._take(event))

    def _take(self, event: events.Event) -> None:
        session = self._session
        if session.closed:
            return  # closed: nobody is told any more
        match event:
            case events.Read():
                session.read.publish(event)
                return
            case events.Flight(data):
                session.incidents.take(data)
                return
            case events.Speeds():
                session.speeds.publish(event)
                return
            case events.Sheet(node, text):
                session.sheets.told(node, text)
            case events.PartNow(node, condition):
                session.sheets.said(node, condition)
                return
            case events.Progress(what):
                session.busy = what
                session.progressed.publish(event)
                return
            case events.Connected():
                self._connected(event)
            case events.Disconnected(why, moving):
                self._lost(why, moving)
            case events.Restarted(moving):
                if moving:
                    self._cut_short(RESTARTED)
                session.tell("fault", "The controller has restarted by itself. Motion has stopped, and home is lost.")
                session.restarted.publish()
            case events.Spoilt():
                session.tell("warn", event.sentence)
                return
            case events.Failed(what, why, nodes, off_first):
                if what == "power" and session.loose.words:
                    why = f"The drives stay off. {session.loose.words}"
                session.refusal = why
                session.off_first |= off_first
                session.tell("warn", why)
                if nodes:
                    session.several.publish(nodes)
                session.failed.publish(what)
                if what == "send" and session.link.connected:
                    session.link.read_all()  # only what it holds now says what has become of the send
            case events.Done(what, holding, slot):
                if what == "home" and slot is not None:
                    session.homes.by_hand.add(slot)
                    session.homes.found(slot)
                if holding is not None:
                    session.hold(holding)
                    session.controller.judge(holding, first=False)
                if what == "changed":
                    session.busy = session.busy if session.busy == "send" else ""
                    session.held.publish()
                    return
                self._say_done(what)
                session.done.publish(what)
                if what in ("try", "jog"):
                    return
            case events.Emergency():
                self._stopped(event)
        session.busy = ""
        session.progressed.publish(None)
        session.held.publish()

    def _connected(self, event: events.Connected) -> None:
        session, identity = self._session, event.identity
        session.identity = identity
        session.hold(event.holding)
        if session.held_machine is not None:
            session.history.keep_found(identity, session.held_machine)
        session.controller.start_up(event.holding)
        again = " again; its values were read anew" if event.by_itself else ""
        session.tell("found", f"{identity.name} answers{again}, serial number {identity.serial}.")
        if why := session.proven.hear(0 if identity.parts else identity.serial):
            session.tell("warn", why)
        session.controller.judge(event.holding, first=True)
        session.proved.publish()

    def _lost(self, why: str, moving: bool) -> None:
        session = self._session
        if why and moving:
            self._cut_short(LINK_CUT)
        session.hold(None)
        session.identity = None
        session.controller.gone()
        session.bus.follow(events.Asked())
        if why:
            session.tell("fault", f"Link lost. {why} Your edits are still here.")

    def _say_done(self, what: str) -> None:
        if what == "send":
            count = self._session.count()
            waiting = len(count.waiting)
            wait = "waits" if waiting == 1 else "wait"
            tail = f" {several(waiting, 'value')} {wait} for a restart." if waiting else " What was sent is in force."
            if count.axes is Standing.WAITING:
                tail = " The axes are others: restart the controller at the Link station; it gives no power until then."
            words = f"Sent, read back and stored.{tail}"
        elif what == "factory":
            words = "The controller holds its factory values, and has stored them. Your draft is as it was."
        elif what == "restart":
            words = "The controller is back; its values were read anew. Home is no longer known."
        else:
            return
        self._session.tell("plain", words)

    def _cut_short(self, code: int) -> None:
        """The link or the controller went while the machine moved: an incident, by what was heard until then."""
        self._tell_incident(Incident(code, None, None, self._homed_names()))

    def note_homed(self) -> None:
        """Remembers which axes were homed, so that an incident can say what it lost. Called again and again."""
        axes = self._session.link.axes
        if any(axis.homed for axis in axes) and not any(axis.state is State.FAULT for axis in axes):
            self._homed = tuple(axis.homed for axis in axes)

    def _stopped(self, event: events.Emergency) -> None:
        session, was_gone = self._session, self._session.cause_gone
        session.cause_gone = event.code == 0
        if session.cause_gone:
            if not (was_gone or session.loose.words):  # each part of a machine says so
                session.tell("found", "The controller reports that the fault is gone. Power the drives to go on.")
            return
        incident = Incident(event.code, event.axis, event.input, self._homed_names())
        session.loose.opened(incident)
        last, now = self._last, session.loop.now()
        if (
            last is not None
            and session.in_force.made_of_parts
            and now - last[1] < TOGETHER
            and last[0].code == event.code
        ):
            same = last[0].axis == event.axis
            incident = replace(last[0], axis=event.axis if same else None)  # one cause stopped several drives
        self._last = incident, now
        self._tell_incident(incident)

    def _homed_names(self) -> tuple[str, ...]:
        return tuple(name for name, was in zip(self._session.machine.names, self._homed, strict=False) if was)

    def _tell_incident(self, incident: Incident) -> None:
        self._session.stopped.publish(incident)
        self._session.incidents.stopped(incident)  # its record may be there at once
