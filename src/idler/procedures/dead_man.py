"""What is held on the terminals with a finger: confirmed while it is down, ended when it lifts or the focus goes."""

from __future__ import annotations

from idler.link.events import Asked
from idler.session.session import Session
from idler.session.topic import Topic

USUAL_LEVEL = 600  # ‰: a usual working speed, for what is only to be seen while the spindle turns
CONFIRM = 0.06  # s between two confirmations of what is held


class DeadMan:
    """One for each station that holds something."""

    def __init__(self, session: Session) -> None:
        self.changed: Topic[()] = Topic()
        self._session = session
        self.asked = Asked()
        self._timer = session.loop.timer(CONFIRM, session.keep_holding)
        session.hands_off.subscribe(self.let_go)
        session.stopped.subscribe(lambda _: self.let_go())
        session.halted.subscribe(self.let_go)
        session.held.subscribe(self._look)

    def hold(self, asked: Asked) -> None:
        self.asked = asked
        self._session.hold_terminals(asked)
        self._timer.start()
        self.changed.publish()

    def let_go(self) -> None:
        if self.asked != Asked():
            self.asked = Asked()
            self._timer.stop()
            self._session.hold_terminals(self.asked)
            self.changed.publish()

    def _look(self) -> None:
        if not self._session.connected:
            self.let_go()
