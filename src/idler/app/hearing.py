"""What the link tells, turned into facts on the desk and words for the person, on the thread of the window."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, Qt, Signal

from idler.core.incident import Incident
from idler.core.standing import Standing
from idler.core.units import several
from idler.core.wire.cia402 import LINK_CUT, RESTARTED, State
from idler.link import events

if TYPE_CHECKING:
    from .desk import Desk


class Hearing(QObject):
    heard = Signal(object)  # events.Event, sent on the link's thread

    def __init__(self, desk: Desk) -> None:
        super().__init__(desk)
        self._desk = desk
        self._homed: tuple[bool, ...] = ()
        self.heard.connect(self._take, Qt.ConnectionType.QueuedConnection)

    def _take(self, event: events.Event) -> None:
        desk = self._desk
        if desk.signalsBlocked():
            return  # closed: nobody is told any more
        match event:
            case events.Read():
                desk.read.emit(event)
                return
            case events.Flight(data):
                desk.incidents.take(data)
                return
            case events.Speeds():
                desk.speeds.emit(event)
                return
            case events.Progress(what):
                desk.busy = what
                desk.progressed.emit(event)
                return
            case events.Connected():
                self._connected(event)
            case events.Disconnected(why, moving):
                self._lost(why, moving)
            case events.Restarted(moving):
                if moving:
                    self._cut_short(RESTARTED)
                desk.told.emit("fault", "The controller has restarted by itself. Motion has stopped, and home is lost.")
            case events.Spoilt():
                desk.told.emit("warn", event.sentence)
                return
            case events.Failed(what, why, nodes):
                desk.refusal = why
                desk.told.emit("warn", why)
                if nodes:
                    desk.several.emit(nodes)
                desk.failed.emit(what)
                if what == "send" and desk.link.connected:
                    desk.link.read_all()  # only what it holds now says what has become of the send
            case events.Done(what, holding, slot):
                if what == "home" and slot is not None:
                    desk.homes_by_hand.add(slot)
                if holding is not None:
                    desk.hold(holding)
                    desk.controller.judge(holding, first=False)
                if what == "changed":
                    desk.busy = desk.busy if desk.busy == "send" else ""
                    desk.held.emit()
                    return
                self._say_done(what)
                desk.done.emit(what)
                if what in ("try", "jog"):
                    return
            case events.Emergency():
                self._stopped(event)
        desk.busy = ""
        desk.progressed.emit(None)
        desk.held.emit()

    def _connected(self, event: events.Connected) -> None:
        desk, identity = self._desk, event.identity
        desk.identity = identity
        desk.hold(event.holding)
        if desk.held_machine is not None:
            desk.history.keep_found(identity, desk.held_machine)
        desk.controller.start_up(event.holding)
        again = " again; its values were read anew" if event.by_itself else ""
        desk.told.emit("found", f"{identity.name} answers{again}, serial number {identity.serial}.")
        desk.controller.judge(event.holding, first=True)

    def _lost(self, why: str, moving: bool) -> None:
        desk = self._desk
        if why and moving:
            self._cut_short(LINK_CUT)
        desk.hold(None)
        desk.identity = None
        desk.controller.gone()
        desk.bus.follow(events.Asked())
        if why:
            desk.told.emit("fault", f"Link lost. {why} Your edits are still here.")

    def _say_done(self, what: str) -> None:
        if what == "send":
            count = self._desk.count()
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
        self._desk.told.emit("plain", words)

    def _cut_short(self, code: int) -> None:
        """The link or the controller went while the machine moved: an incident, by what was heard until then."""
        self._tell_incident(Incident(code, None, None, self._homed_names()))

    def note_homed(self) -> None:
        """Remembers which axes were homed, so that an incident can say what it lost. Called at the picture's pace."""
        axes = self._desk.link.axes
        if any(axis.homed for axis in axes) and not any(axis.state is State.FAULT for axis in axes):
            self._homed = tuple(axis.homed for axis in axes)

    def _stopped(self, event: events.Emergency) -> None:
        desk = self._desk
        if event.code == 0:
            desk.told.emit("found", "The controller reports that the fault is gone. Power the drives to go on.")
            return
        self._tell_incident(Incident(event.code, event.axis, event.input, self._homed_names()))

    def _homed_names(self) -> tuple[str, ...]:
        return tuple(name for name, was in zip(self._desk.machine.names, self._homed, strict=False) if was)

    def _tell_incident(self, incident: Incident) -> None:
        self._desk.stopped.emit(incident)
        self._desk.incidents.stopped(incident)  # its record may be there at once
