"""Between a session, which knows no Qt, and the window: its topics heard by widgets, its time and thread given by Qt."""

from __future__ import annotations

import time
import weakref
from collections.abc import Callable
from types import MethodType
from typing import TypeVarTuple

import shiboken6
from PySide6.QtCore import QObject, Qt, QTimer, Signal

from idler.session.topic import Topic

News = TypeVarTuple("News")
CALM_MS = 33  # between two calls of one that follows calmly: what comes a hundred times a second is shown thirty times


def follow(topic: Topic[*News], subscriber: Callable[[*News], object], owner: QObject | None = None) -> None:
    """Calls the subscriber for as long as its owner, a widget or another object of Qt, exists. owner: whose it is, where it
    is no method of one; a method does not keep its owner alive."""
    method = weakref.WeakMethod(subscriber) if isinstance(subscriber, MethodType) and owner is None else None
    held = owner if owner is not None else getattr(subscriber, "__self__", None)
    if not isinstance(held, QObject):
        raise TypeError(f"{subscriber} is no method of an object of Qt: whose is it?")
    found = weakref.ref(held)
    kept = subscriber if method is None else None

    def hear(*news: *News) -> None:
        who, what = found(), kept if method is None else method()
        if who is None or what is None or not shiboken6.isValid(who):
            topic.unsubscribe(hear)
        else:
            what(*news)

    topic.subscribe(hear)


def follow_calmly(topic: Topic[()], subscriber: Callable[[], object]) -> None:
    """As `follow`, for what may come with every report of the controller: at once where nothing came lately, else once for
    all that came meanwhile. subscriber: a method of an object of Qt."""
    owner = getattr(subscriber, "__self__", None)
    if not isinstance(owner, QObject):
        raise TypeError(f"{subscriber} is no method of an object of Qt: whose is it?")
    calm = Calm(owner, weakref.WeakMethod(subscriber))
    follow(topic, calm.hear)


class Calm(QObject):
    """Lives as long as whose it is."""

    def __init__(self, owner: QObject, work: weakref.WeakMethod[Callable[[], object]]) -> None:
        super().__init__(owner)
        self._work, self._came = work, False
        self._pause = QTimer(self)
        self._pause.setSingleShot(True)
        self._pause.timeout.connect(self._over)

    def hear(self) -> None:
        self._came = True
        if not self._pause.isActive():
            self._over()

    def _over(self) -> None:
        work = self._work()
        if self._came and work is not None:
            self._came = False
            work()
            self._pause.start(CALM_MS)


class QtTimer:
    """One of a QtLoop."""

    def __init__(self, parent: QObject, seconds: float, work: Callable[[], object], once: bool) -> None:
        self._timer = QTimer(parent)
        self._timer.setSingleShot(once)
        self._timer.setInterval(round(seconds * 1000))
        self._timer.timeout.connect(work)

    def start(self) -> None:
        self._timer.start()

    def stop(self) -> None:
        self._timer.stop()

    @property
    def active(self) -> bool:
        return self._timer.isActive()


class QtLoop(QObject):
    """The window's thread, as a session wants it (`idler.session.loop.Loop`)."""

    _called = Signal(object)

    def __init__(self) -> None:
        super().__init__()
        self._called.connect(self._do, Qt.ConnectionType.QueuedConnection)

    def now(self) -> float:
        return time.monotonic()

    def timer(self, seconds: float, work: Callable[[], object], *, once: bool = False) -> QtTimer:
        return QtTimer(self, seconds, work, once)

    def call(self, work: Callable[[], object]) -> None:
        self._called.emit(work)

    def _do(self, work: Callable[[], object]) -> None:
        work()
