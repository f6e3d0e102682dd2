"""The main window: header, train, stage, margin, rails; menus, keys, and the timer that shows motion."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING, TypeVar

from PySide6.QtCore import QEvent, QSize, Qt, QTimer, Signal
from PySide6.QtGui import QCloseEvent, QResizeEvent, QWindow
from PySide6.QtWidgets import QApplication, QDialog, QHBoxLayout, QMainWindow, QStackedWidget, QVBoxLayout, QWidget

from idler.core.machine import Machine
from idler.core.report import finder, manual
from idler.core.report.agenda import KEEP, SEND, Step
from idler.core.report.progress import shares, train
from idler.core.table.stations import Station, Tab
from idler.core.wiring.tool import station_label
from idler.procedures.jogging.hand import HandDesk
from idler.procedures.jogging.jog import Jog
from idler.procedures.registry import help_pages
from idler.session.session import Session

from .. import growth, theme
from ..bridge import follow
from ..sound import Sounds
from ..stations import page_of
from ..stations.incident.strip import IncidentStrip
from ..stations.workbench import Workbench
from ..tools.commands import COMMANDS
from ..tools.dialogs import FactoryDialog, KeepDialog, NamesDialog, PinDialog, SendDialog
from ..tools.exchange import ask_export, ask_import
from ..tools.finddialog import FindDialog
from ..tools.handdialog import HandDialog
from ..tools.helpdialog import HelpDialog
from ..tools.keys import Bindings
from ..tools.keysdialog import CommandKeysDialog, JogDialog
from ..tools.reports import DiagramDialog, ask_report
from ..widgets.cards import Pages, Segments
from ..widgets.stopkey import StopKey
from .actionkeys import ActionKeys
from .header import Header
from .jogkeys import JogKeys
from .margin import Margin
from .menu import Menu
from .notice import Notice
from .offers import OfferStrip
from .rails import Rails
from .train import Train

if TYPE_CHECKING:
    from ..stations.incident.page import IncidentPage
    from ..tools.numberdialog import NumberDialog
    from ..tools.partsheets import PartsDialog
    from ..tools.wirewindow import WireWindow

MOVING_MS, RESTING_MS = 40, 100  # 25 pictures a second while something moves
FITTING_MS = 30  # once what changed has been laid out

D = TypeVar("D", bound=QDialog)


class _Stage(QWidget):
    """The stage. Strips take its upper edge: what is below makes room where it can, else it is covered."""

    laid_anew = Signal()  # what is on it needs more room than before, or less

    def __init__(self, strips: tuple[IncidentStrip | OfferStrip, ...], pages: QStackedWidget) -> None:
        super().__init__()
        self.setObjectName("stage")
        self._strips, self._pages = strips, pages
        pages.setParent(self)
        pages.currentChanged.connect(lambda _: self._lay())
        for strip in strips:
            strip.setParent(self)
            strip.laid.connect(self._lay)

    def minimumSizeHint(self) -> QSize:
        return self._pages.minimumSizeHint()

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._lay()

    def event(self, event: QEvent) -> bool:
        if event.type() is QEvent.Type.LayoutRequest:
            self._lay()
            self.laid_anew.emit()
        return super().event(event)

    def _lay(self) -> None:
        taken = 0
        for strip in self._strips:
            height = strip.sizeHint().height()
            strip.setGeometry(0, taken, self.width(), height)
            taken += 0 if strip.isHidden() else height
        page = self._pages.currentWidget()
        room = page is not None and self.height() - taken >= page.minimumSizeHint().height()
        top = taken if room else 0
        self._pages.setGeometry(0, top, self.width(), self.height() - top)
        self.updateGeometry()


class Window(QMainWindow):
    """start_bench and show_bench are what the menu and the Link station call; what it cannot do itself it asks for."""

    machines_wanted = Signal()
    start_wanted = Signal()
    log_wanted = Signal()
    sounds_turned = Signal(bool)
    leads_turned = Signal(bool)
    problem_wanted = Signal(str)  # with this incident, or none

    def __init__(self, session: Session, start_bench: Callable[[], None], show_bench: Callable[[], None]) -> None:
        super().__init__()
        self.session, self.start_bench = session, start_bench
        self.setWindowTitle(f"Idler: {session.machine.title}")
        self.setMinimumSize(*growth.SMALLEST)
        self.resize(*growth.USUAL)
        self.jog, self.sounds = Jog(session), Sounds(session, self)
        self.header, self.train, self.notice = Header(session), Train(), Notice()
        self.margin = Margin(session, self.notice)
        self.margin.next.wanted.connect(self.go_to)
        self.margin.explained.connect(self.open_help)
        self.margin.help.clicked.connect(lambda: self.open_help())
        self.notice.asked.connect(self.open_help)
        self.bindings = Bindings(session.folder / "keys.toml")
        self.rails = Rails(session, self.jog, self.bindings)
        self._fold_wanted: bool | None = None  # by the person, at this station
        self._folds: dict[Station, bool] = {}  # whether the rails were folded where the stations were left
        self.rails.fold_asked.connect(self._fold_as_asked)
        self._fitting = QTimer(self)
        self._fitting.setSingleShot(True)
        self._fitting.setInterval(FITTING_MS)
        self._fitting.timeout.connect(self._fit_rails)
        self._stages = Pages()
        self.incident, self.offers = IncidentStrip(session), OfferStrip()
        self._pages: dict[Station, Workbench] = {}
        self._incident_page: IncidentPage | None = None
        self._help: HelpDialog | None = None
        self._station = Station.LINK
        self._large = False
        self._axis: int | None = None  # of the page on the stage
        self._lay_out()
        self.menu = self._commands(start_bench, show_bench)
        follow(session.undo_stack.changed, self._show_undo)
        self._show_undo()
        app = QApplication.instance()
        assert isinstance(app, QApplication)
        self._stop_key = StopKey(self.stop, app)
        self._jog_keys = JogKeys(session, self.jog, self.bindings, self)
        self._action_keys = ActionKeys(session, self)
        follow(self._action_keys.asked, self._act)
        self.hand = HandDesk(session, self.jog)
        follow(self.hand.acts, self._act_by_hand)
        app.focusWindowChanged.connect(self._focus_moved)
        self.header.stop.connect(self.stop)
        self.header.send.connect(self.open_send)
        self.header.keep.connect(self.open_keep)
        self.train.opened.connect(self.open_station)
        follow(session.told, self.notice.tell)
        self.incident.asked.connect(lambda: self.open_incident(self.incident.record))
        follow(session.incidents.recorded, self.incident.offer_seconds)
        follow(session.controller.offered, self.offers.make)
        follow(session.controller.withdrawn, self.offers.withdraw)
        follow(session.controller.compare, self._compare)
        follow(session.changed, self._refresh_train)
        follow(session.held, self._refresh_train)
        follow(session.revised, self._show_revision)
        follow(session.proved, self._refresh_train)
        self._pace = QTimer(self)
        self._pace.timeout.connect(self._show_motion)
        self._pace.start(RESTING_MS)
        self.open_station(Station.LINK)
        self._refresh_train()
        theme.dress(self)

    def _act(self, name: str, key: str) -> None:
        """An own action, where its questions can be answered."""
        self.open_station(Station.TRIAL)
        page = self.page(Station.TRIAL)
        page.turn_to(Tab.ACTIONS)
        page.own.start(name, key)  # type: ignore[attr-defined]

    def _act_by_hand(self, name: str) -> None:
        self._act(name, "a hand device")

    def _compare(self, side: str) -> None:
        """The controller against the draft, or against what Idler last knew of it."""
        self.open_station(Station.SIGN_OFF)
        page = self.page(Station.SIGN_OFF)
        page.turn_to(Tab.COMPARE)
        page.compare.choose(*(("heard", "controller") if side == "heard" else ("draft", "controller")))  # type: ignore[attr-defined]

    def _lay_out(self) -> None:
        stage = _Stage((self.incident, self.offers), self._stages)
        stage.laid_anew.connect(self._fitting.start)
        middle = QHBoxLayout()
        middle.setContentsMargins(0, 0, 0, 0)
        middle.setSpacing(0)
        middle.addWidget(stage, 1)
        middle.addWidget(self.margin)
        whole = QWidget()
        column = QVBoxLayout(whole)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(self.header)
        column.addWidget(self.train)
        column.addLayout(middle, 1)
        column.addWidget(self.rails)
        self.setCentralWidget(whole)

    def _commands(self, start_bench: Callable[[], None], show_bench: Callable[[], None]) -> Menu:
        works: dict[str, Callable[[], object]] = {
            "undo": self.session.undo,
            "redo": self.session.redo,
            "find": self.open_find,
            "help": self.open_help,
            "machines": self.machines_wanted.emit,
            "send": self.open_send,
            "keep": self.open_keep,
            "revisions": self.open_revisions,
            "incidents": lambda: self.open_incident(),
            "diagram": lambda: self.open_dialog(DiagramDialog(self, self.session)),
            "report": lambda: ask_report(self, self.session),
            "import": self.open_import,
            "export": lambda: ask_export(self, self.session),
            "names": lambda: self.open_dialog(NamesDialog(self, self.session)),
            "jogging": self.open_jogging,
            "keys": self.open_keys,
            "hand": lambda: self.open_dialog(HandDialog(self, self.session, self.hand)),
            "lock": self.open_lock,
            "start": self.start_wanted.emit,
            "wire": self.open_wire,
            "parts": self.open_parts,
            "number": self.open_number,
            "log": self.log_wanted.emit,
            "problem": lambda: self.problem_wanted.emit(""),
            "bench": start_bench,
            "look": show_bench,
            "arm": lambda: self.jog.arm(not self.jog.armed),
            "night": lambda: self.set_night(not theme.is_night()),
            "large": lambda: self.set_large(not self._large),
            "sounds": lambda: self.set_sounds(not self.sounds.on),
            "leads": lambda: self.set_leads(not self.session.leading.on),
            "leave": self.close,
        }
        return Menu(self, self.header.menu, self.bindings, works)

    # -- doing ----------------------------------------------------------------------------------------------------

    def stop(self) -> None:
        """STOP and Esc."""
        self.session.stop()

    def open_station(self, station: Station) -> None:
        if station not in self._pages:
            self._pages[station] = page = page_of(station, self)
            page.laid_anew.connect(self._fitting.start)
            page.explained.connect(self.open_help)
            self._stages.addWidget(page)
        before = self._stages.currentWidget()
        self._fold_for(station)
        self._stages.setCurrentWidget(self._pages[station])
        self.incident.show_seconds(False)
        self._station = station
        if before is not self._pages[station]:
            if isinstance(before, Workbench):
                before.left()
            self._pages[station].entered()
        self._fold_wanted = None
        self._fitting.start()
        self.session.set_focus(None)
        self.margin.show_station(station)
        self.train.show_here(station)

    def _fold_for(self, station: Station) -> None:
        """The rails as they were when the station was left: it comes at its size, and is laid out and drawn once."""
        before, central = self._stages.currentWidget(), self.centralWidget()
        folds = self._folds.get(station, self.rails.folded)
        if folds != self.rails.folded and before is not None and (laid := central and central.layout()):
            before.hide()  # what goes is not laid out anew
            self.rails.fold(folds)
            laid.activate()

    def open_incident(self, name: str = "") -> IncidentPage:
        """The last seconds of an incident, or of the newest one, in the place of the station until the work goes on."""
        if self._incident_page is None:
            from ..stations.incident.page import IncidentPage  # its traces need NumPy

            self._incident_page = made = IncidentPage(self.session, lambda: self.incident.record)
            made.opened.connect(self._go_on)
            made.report.connect(self.problem_wanted)
            made.left_for.connect(lambda: self.open_station(self._station))
            self._stages.addWidget(made)
        before = self._stages.currentWidget()
        if isinstance(before, Workbench) and before is not self._incident_page:
            before.left()
        if self._incident_page.show_newest() and name:
            self._incident_page.choose(name)
        self._stages.setCurrentWidget(self._incident_page)
        self.incident.show_seconds(True)
        return self._incident_page

    def _go_on(self, station: Station, page: str) -> None:
        """The next step after an incident: a station, and one of its pages."""
        self.open_station(station)
        if page:
            self.page(station).turn_to(page)

    def go_to(self, step: Step) -> None:
        """Where a step of the agenda is done, with the focus on what does it."""
        self.open_station(step.station)
        page = self._pages[step.station]
        if step.page:
            page.turn_to(step.page)
        slot = step.control.slot if step.control is not None and step.control.axis is not None else None
        if step.axis in self.session.machine.names:
            slot = self.session.machine.names.index(step.axis)
        if slot is not None and slot != page.axis:
            page.show_axis(slot)
        of_header = {SEND: self.header.send_button, KEEP: self.header.keep_button}
        target = of_header.get(step.key) or page.control_of(step.key, step.control)
        if target is not None:
            target.setFocus(Qt.FocusReason.OtherFocusReason)

    def open_find(self) -> FindDialog:
        """Anything by its word."""
        session = self.session
        entries = [
            *finder.values(session.machine), *finder.proofs(session.machine, session.proofs),
            *finder.others(session.machine, session.findings(), session.agenda.steps),
            *(finder.Entry(finder.Sort.STATION, each.label, "", each.proves, each) for each in Station),
            *(finder.Entry(finder.Sort.PAGE, name, at.label, "", at, name) for at, page in self._pages.items()
              for segments in page.findChildren(Segments) for name in segments.offered),
            *(finder.Entry(finder.Sort.COMMAND, each.words.rstrip("…"), each.keys, each.name, command=each.name)
              for each in COMMANDS.values()),
            *manual.entries(help_pages()),
        ]  # fmt: skip
        dialog = self.open_dialog(FindDialog(self, entries))
        dialog.chosen.connect(self._go_to_found)
        dialog.line.setFocus()
        return dialog

    def open_help(self, key: str = "") -> HelpDialog:
        """A page of the help; without its key that of what is looked at. It is the same window until it is closed."""
        if self._help is None:
            self._help = HelpDialog(self, help_pages())
        self._help.show_page(key or self._help_here())
        self._help.show()
        self._help.raise_()
        self._help.activateWindow()
        return self._help

    def _help_here(self) -> str:
        page = self._stages.currentWidget()
        if page is self._incident_page:
            return "stopped"
        shown = {segments.shown for segments in page.findChildren(Segments)} if page is not None else set()
        return manual.about(help_pages(), self._station, shown)

    def _go_to_found(self, entry: finder.Entry) -> None:
        if entry.help:
            self.open_help(entry.help)
        elif entry.command:
            self.menu.actions[entry.command].trigger()
        elif entry.step is not None:
            self.go_to(entry.step)
        elif entry.station is not None:
            self.open_station(entry.station)
            page = self._pages[entry.station]
            if entry.page:
                page.turn_to(entry.page)
            if entry.address is not None and (editor := page.show_value(entry.address)) is not None:
                editor.setFocus(Qt.FocusReason.OtherFocusReason)
        else:
            self.menu.actions[
                "jogging" if entry.address is not None and entry.address.row.group == "jog" else "names"
            ].trigger()

    def page(self, station: Station) -> Workbench:
        """The workbench of a station, made if it was not open yet."""
        if station not in self._pages:
            self.open_station(station)
        return self._pages[station]

    def open_send(self) -> SendDialog | None:
        if not self.session.count().to_send:
            self.session.tell("plain", "There is nothing to send: the controller holds every value.")
            return None
        return self.open_dialog(SendDialog(self, self.session))

    def open_send_of(self, machine: Machine) -> SendDialog:
        """Asks whether another machine than the draft is to be sent."""
        return self.open_dialog(SendDialog(self, self.session, machine))

    def open_factory(self) -> FactoryDialog:
        return self.open_dialog(FactoryDialog(self, self.session))

    def open_keep(self) -> KeepDialog:
        return self.open_dialog(KeepDialog(self, self.session))

    def open_revisions(self) -> None:
        self.open_station(Station.SIGN_OFF)
        self.page(Station.SIGN_OFF).turn_to(Tab.REVISIONS)

    def open_import(self) -> None:
        dialog = ask_import(self, self.session)
        if dialog is not None:
            self.open_dialog(dialog)

    def open_lock(self) -> PinDialog | None:
        """Unlocks with the PIN, locks again, or makes a PIN where there is none."""
        lock = self.session.lock
        if lock.has_pin and not lock.closed:
            lock.close()
            self.session.tell("plain", "The set-up is locked again.")
            return None
        return self.open_dialog(PinDialog(self, self.session))

    def open_wire(self) -> WireWindow:
        from ..tools.wirewindow import WireWindow

        dialog = WireWindow(self, self.session)
        dialog.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        dialog.show()
        return dialog

    def open_parts(self) -> PartsDialog:
        from ..tools.partsheets import PartsDialog

        return self.open_dialog(PartsDialog(self, self.session))

    def open_number(self) -> NumberDialog:
        from ..stations.link.station import LinkStation
        from ..tools.numberdialog import NumberDialog

        page = self.page(Station.LINK)
        assert isinstance(page, LinkStation)
        return self.open_dialog(NumberDialog(self, self.session, page.bus_address))

    def open_jogging(self) -> JogDialog:
        return self.open_dialog(JogDialog(self, self.session, self.bindings))

    def open_keys(self) -> CommandKeysDialog:
        return self.open_dialog(CommandKeysDialog(self, self.session, self.bindings))

    def open_dialog(self, dialog: D) -> D:
        dialog.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        dialog.open()
        return dialog

    def set_night(self, night: bool) -> None:
        app = QApplication.instance()
        assert isinstance(app, QApplication)
        theme.apply(app, night)
        self.menu.check("night", night)
        self.session.show_anew()

    def set_sounds(self, on: bool) -> None:
        self.sounds.turn(on)
        self.menu.check("sounds", on)
        self.sounds_turned.emit(on)

    def set_leads(self, on: bool) -> None:
        self.session.leading.on = on
        self.session.leading.stay()
        self.menu.check("leads", on)
        self.leads_turned.emit(on)

    def set_large(self, large: bool) -> None:
        """Everything as large as the window can show it whole, or as usual."""
        self._large = large
        self.menu.check("large", large)
        self._grow()

    def _grow(self) -> None:
        app = QApplication.instance()
        assert isinstance(app, QApplication)
        theme.grow(app, growth.factor_for(self.width(), self.height(), large=self._large))
        self._fitting.start()

    # -- showing --------------------------------------------------------------------------------------------------

    def _refresh_train(self) -> None:
        session = self.session
        found = session.history.found is not None
        self.train.show_states(
            train(session.machine, connected=session.connected, found_kept=found, kept=session.proofs),
            shares(session.machine, session.proofs),
            {station: station_label(session.machine, station) for station in Station},
        )

    def _show_revision(self) -> None:
        revisions = self.session.history.all()
        own = next((revision for revision in revisions if not revision.as_found), None)
        none = "reading revisions" if self.session.history.being_read else "no revision yet"
        self.header.show_revision(f"revision {own.number}" if own else none)

    def after_first_paint(self) -> None:
        """What need not be there before the window is: the history, and what the draft could not keep."""
        self._show_revision()
        for sentence in (*self.session.lost_edits, *filter(None, [self.bindings.trouble])):
            self.session.tell("warn", sentence)

    def _show_motion(self) -> None:
        page = self._stages.currentWidget()
        assert isinstance(page, Workbench)
        if page.axis != self._axis:
            self._axis = page.axis
            self._fitting.start()
        wanted = MOVING_MS if self.session.moving or (page.live and self.session.connected) else RESTING_MS
        if self._pace.interval() != wanted:
            self._pace.setInterval(wanted)
        self.rails.show_motion()
        self.header.show_motion()
        self.incident.show_motion()
        page.show_motion()

    def _show_undo(self) -> None:
        stack = self.session.undo_stack
        for name, words in (("undo", stack.undone_next), ("redo", stack.redone_next)):
            action = self.menu.actions[name]
            action.setText(f"{COMMANDS[name].words} {words}".rstrip())
            action.setEnabled(bool(words))

    def _focus_moved(self, window: QWindow | None) -> None:
        self.session.look_away(attended=window is not None)

    def resizeEvent(self, event: QResizeEvent) -> None:
        """A larger window shows all of it larger."""
        super().resizeEvent(event)
        self._grow()

    def _fold_as_asked(self, on: bool) -> None:
        self._fold_wanted = on
        self._fit_rails()

    def _fit_rails(self) -> None:
        """The rails fold where what is on the stage needs the room, and as the person wants."""
        page = self._stages.currentWidget()
        assert isinstance(page, Workbench)
        left = self.height() - self.header.height() - self.train.height() - growth.px(self.rails.unfolded_height)
        needed = page.height_wanted() > left
        self.rails.fold(needed if self._fold_wanted is None else self._fold_wanted)
        self._folds[self._station] = needed
        if page.axis is not None:
            self.rails.choose(page.axis)

    def changeEvent(self, event: QEvent) -> None:
        """A window that is no longer the active one jogs no more."""
        if event.type() == QEvent.Type.ActivationChange and not self.isActiveWindow():
            self.jog.arm(False)
            self.jog.let_go()
        super().changeEvent(event)

    def closeEvent(self, event: QCloseEvent) -> None:
        self._pace.stop()
        self._stop_key.deleteLater()
        self._jog_keys.listen(False)
        self.hand.disconnect()
        self.session.close()
        super().closeEvent(event)
