"""What is held: confirmed again and again for as long as somebody means it, and ended with it."""

from __future__ import annotations

from idler.link.events import Asked
from idler.session.session import Session
from idler.session.topic import Topic

USUAL_LEVEL = 600  # ‰: a usual working speed, for what is only to be seen while the spindle turns
CONFIRM = 0.06  # s between two confirmations of what is held


class Confirmation:
    """That something is held still, told to the link from `begin` to `end`."""

    def __init__(self, session: Session) -> None:
        self._timer = session.loop.timer(CONFIRM, session.keep_holding)

    def begin(self) -> None:
        self._timer.start()

    def end(self) -> None:
        self._timer.stop()


class HeldTerminals:
    """Spindle or outputs, held until they are let go of. asked: what is held."""

    def __init__(self, session: Session) -> None:
        self.changed: Topic[()] = Topic()
        self._session = session
        self.asked = Asked()
        self._confirmation = Confirmation(session)

    def hold(self, asked: Asked) -> None:
        self.asked = asked
        self._session.hold_terminals(asked)
        self._confirmation.begin()
        self.changed.publish()

    def let_go(self) -> None:
        if self.asked != Asked():
            self.asked = Asked()
            self._confirmation.end()
            self._session.hold_terminals(self.asked)
            self.changed.publish()


class DeadMan(HeldTerminals):
    """The same under a finger: let go of when it lifts, the focus goes, or anything stops the machine. One for each station
    that holds something."""

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        session.hands_off.subscribe(self.let_go)
        session.stopped.subscribe(lambda _: self.let_go())
        session.halted.subscribe(self.let_go)
        session.held.subscribe(self._look)

    def _look(self) -> None:
        if not self._session.connected:
            self.let_go()
