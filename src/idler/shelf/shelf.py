"""The shelf: machines with their revisions in a Git repository, and drafts beside it.

DIR/machines/          a Git repository: NAME.toml, and found/NAME-SERIAL.toml as controllers were found
                       archive/NAME.toml: machines off the shelf; locks/NAME.toml: their PINs
                       proofs/NAME.toml, passes/NAME.toml and prints/NAME.toml: what was proven and measured, kept with the
                       revisions
DIR/drafts/NAME.toml   edits that no revision holds yet
DIR/figures/NAME/      programs of the figures that were made last
DIR/work/NAME.toml     work zeros of the job on the table; drives/, startup/, sending/, heard/, incidents/ alike
"""

from __future__ import annotations

import contextlib
import re
import threading
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING

from idler.core.errors import IdlerError, Refusal
from idler.core.machine import Address, Machine, filedata
from idler.core.machine import file as machinefile
from idler.core.machine.changes import address_from, address_text
from idler.core.mechanics.scale import Pass
from idler.core.mechanics.torqueprint import TorquePrint
from idler.core.proof.claims import Evidence
from idler.core.proof.workzero import WorkSet
from idler.core.spindle import registers
from idler.core.spindle.registers import Registers
from idler.core.values.parameter import Value

from . import doubts, evidence, opened, skips, startup, tools, work
from . import passes as measured
from . import pin as pins
from . import prints as torque_prints
from .controllers import Controllers
from .files import ARCHIVE, Careful, moved, read_text, removed, write_text
from .incidents import IncidentFolder
from .opened import Opened

if TYPE_CHECKING:
    from idler.core.program.tools import ToolSet

    from .history import History
    from .trail import Revision


_WITH = ("proofs/", "passes/", "prints/")  # what is kept with the revisions
# Of each machine beside the repository: a file, or a folder, by where it lies. `heard` has one for each serial number.
_BESIDE = {
    "drafts": ".toml",
    "work": ".toml",
    "tools": ".toml",
    "doubts": ".toml",
    "skips": ".toml",
    "programs": ".toml",
    "drives": ".toml",
    "startup": ".toml",
    "sending": ".json",
    "incidents": "",
    "locks": ".toml",
}
_LOCKED = (
    "# The set-up of this machine is locked with a PIN, which is not kept here. Forgotten: idler unlock NAME --forgotten\n"
    "since = {when}\n"
)


@dataclass(frozen=True)
class Kept:
    """A machine as its newest revision holds it. when: it was kept, s since 1970."""

    name: str
    machine: Machine
    text: str
    when: float


class Shelf:
    """Raises FileTrouble where its folder cannot be used."""

    def __init__(self, root: Path) -> None:
        self.root = root
        self._machines = root / "machines"
        with contextlib.suppress(OSError):  # whoever needs to write into it is told then
            root.mkdir(mode=0o700, parents=True, exist_ok=True)
        self._history: History | None = None
        self._opening = threading.Lock()
        self._careful = Careful()

    @property
    def history(self) -> History:
        """Opened when it is first asked for, by whichever thread: the Git package takes its time to load."""
        with self._opening:
            if self._history is None:
                from .history import History

                self._history = History(self._machines, self.root / "trail.jsonl")
            return self._history

    def recover(self, when: float) -> bool:
        """For the one that holds the shelf: mends what a killed program left. True where something was left."""
        return (self._machines / ".git").exists() and self.history.recover(when)

    @property
    def scattered(self) -> bool:
        """Whether its revisions lie about in so many files that `pack` is worth its time."""
        from .repository import scattered

        return scattered(self._machines)

    def pack(self) -> None:
        """Puts the revisions into few files; seconds for many. For a process of its own. Raises FileTrouble."""
        from .repository import pack

        pack(self._machines)

    def names(self) -> list[str]:
        return sorted(path.stem for path in self._machines.glob("*.toml"))

    def require(self, name: str) -> None:
        """Raises IdlerError where the shelf has no machine of this name."""
        if name not in self.names():
            known = ", ".join(self.names()) or "no machine yet"
            raise IdlerError(f"Machine {name[:60]}: is not on the shelf {self.root}. There: {known}.")

    def add(self, name: str, text: str, note: str, when: float) -> None:
        """Puts a new machine on the shelf from the text of a machine file, as its first revision."""
        self._free(name)
        machinefile.read(text)
        write_text(self._machines / f"{name}.toml", text)
        self.history.commit([f"{name}.toml"], note, when)

    def _free(self, name: str) -> None:
        """Raises IdlerError where a new machine cannot have this name."""
        if not re.fullmatch(r"[a-z0-9][a-z0-9-]{0,40}", name):
            raise IdlerError(f"Machine {name}: a name on the shelf has small letters, figures and hyphens only.")
        if name in self.names() or name in self.archived():
            raise IdlerError(f"Machine {name}: the shelf has a machine of that name. Choose another name.")

    def archived(self) -> list[str]:
        return sorted(path.stem for path in (self._machines / ARCHIVE).glob("*.toml"))

    def archive(self, name: str, when: float) -> None:
        """Takes a machine off the shelf; nothing of it is lost, and `bring_back` puts it there again."""
        self._move([(f"{name}.toml", f"{ARCHIVE}/{name}.toml")], f"Archived {name}", when)

    def bring_back(self, name: str, when: float) -> None:
        self._move([(f"{ARCHIVE}/{name}.toml", f"{name}.toml")], f"Brought {name} back from the archive", when)

    def rename(self, name: str, new: str, when: float) -> None:
        """Another name on the shelf; its revisions, proofs, drafts and incidents go with it. Raises IdlerError."""
        self._free(new)
        pairs = [(f"{folder}{name}.toml", f"{folder}{new}.toml") for folder in ("", *_WITH, "locks/")]
        found = (self._machines / "found").glob(f"{name}-*.toml")
        pairs += [(f"found/{p.name}", f"found/{new}{p.name[len(name) :]}") for p in found if self._is_of(p.stem, name)]
        self._move(pairs, f"Renamed {name} to {new}", when)
        for folder in _BESIDE:
            moved(self._beside(folder, name), self._beside(folder, new))
        for path in (self.root / "heard").glob(f"{name}-*.json"):
            if self._is_of(path.stem, name):
                moved(path, path.with_name(f"{new}{path.name[len(name) :]}"))

    def _beside(self, folder: str, name: str) -> Path:
        return self.root / folder / f"{name}{_BESIDE[folder]}"

    @staticmethod
    def _is_of(stem: str, name: str) -> bool:
        """Whether NAME-SERIAL is of this machine, and not of one whose name begins alike."""
        return stem[len(name) + 1 :].isdecimal()

    def _move(self, pairs: Sequence[tuple[str, str]], note: str, when: float) -> None:
        there = [
            (old, new) for old, new in reversed(pairs) if (self._machines / old).exists()
        ]  # the machine itself last
        for old, new in there:
            moved(self._machines / old, self._machines / new)
        self.history.commit([path for pair in there for path in pair], note, when)

    # -- the lock of the set-up -----------------------------------------------------------------------------------

    def is_locked(self, name: str) -> bool:
        return self._mark(name).exists() or self._lock(name).exists()

    def lock(self, name: str, pin: str, when: float) -> None:
        """From here on the set-up is changed only by who knows the PIN. Raises Refusal for one that may not be used."""
        write_text(self._lock(name), pins.lock_text(pin), private=True)
        write_text(self._mark(name), _LOCKED.format(when=when))
        self.history.commit([f"locks/{name}.toml"], f"Locked the set-up of {name} with a PIN", when)

    def opens(self, name: str, pin: str, when: float) -> bool:
        """Whether this is the PIN. when: seconds since 1970; wrong ones make the next try wait. Raises IdlerError."""
        lock = self._lock(name)
        return pins.tried(lock if lock.exists() else self._mark(name), pin, when)  # older ones lie with the revisions

    def unlock(self, name: str, note: str, when: float) -> None:
        """Takes the PIN away for good; the revisions show that it was."""
        removed(self._lock(name))
        removed(self._lock(name).with_suffix(".tries"))
        removed(self._mark(name))
        self.history.commit([f"locks/{name}.toml"], note, when)

    def _lock(self, name: str) -> Path:
        """The hash of its PIN, which no revision holds."""
        return self._beside("locks", name)

    def _mark(self, name: str) -> Path:
        """That it is locked, which its revisions hold."""
        return self._machines / "locks" / f"{name}.toml"

    def load(self, name: str) -> Kept:
        """Raises FileTrouble or FileRefusal where the machine's file cannot be read."""
        path = self._machines / f"{name}.toml"
        text = read_text(path)
        return Kept(name, machinefile.read(text).machine, text, path.stat().st_mtime)

    def glance(self, name: str) -> tuple[str, tuple[str, ...]]:
        """Title and letters of a machine, for a list of many. Raises IdlerError where its file cannot be read."""
        return machinefile.glance(read_text(self._machines / f"{name}.toml"))

    def edits(self, name: str) -> int:
        """How many values a machine's draft has otherwise than its newest revision."""
        if not self._beside("drafts", name).exists():
            return 0
        machine = self.load(name).machine
        return len(self.draft(name, machine)[0].differences(machine))

    def keep(self, name: str, machine: Machine, note: str, when: float) -> Revision:
        """Keeps a revision: the file is on the disk and committed when this returns, and the draft is empty.

        Raises IdlerError where nothing has changed since the last one, neither a value nor a proof.
        """
        text = machinefile.write(machine, self.load(name).text)
        write_text(self._machines / f"{name}.toml", text)
        beside = [f"{folder}{name}.toml" for folder in _WITH]
        there = [file for file in beside if (self._machines / file).exists()]
        self.history.commit([f"{name}.toml", *there], note, when)
        self.save_draft(name, machine, machine)
        return self.revisions(name)[0]

    def keep_found(self, name: str, serial: int, machine: Machine, note: str, when: float) -> bool:
        """Keeps what a controller held at first contact; False where that was done before."""
        file = f"found/{name}-{serial}.toml"
        if (self._machines / file).exists():
            return False
        write_text(self._machines / file, machinefile.write(machine))
        self.history.commit([file], note, when)
        return True

    def revisions(self, name: str) -> list[Revision]:
        """Newest first; those of controllers as they were found are among them, and those that only hold new proofs."""
        return self.history.of(name)

    def at(self, revision: Revision) -> Machine:
        return machinefile.read(self.history.text(revision)).machine

    # -- proofs ---------------------------------------------------------------------------------------------------

    def proofs(self, name: str) -> dict[str, Evidence]:
        """The newest proof of each claim. Raises IdlerError where the file cannot be read."""
        return self._careful.read(self._machines / "proofs" / f"{name}.toml", evidence.read)

    def save_proofs(self, name: str, proofs: Mapping[str, Evidence]) -> None:
        """On the disk when this returns; the next revision takes them with it."""
        evidence.write(self._careful.place(self._machines / "proofs" / f"{name}.toml"), proofs)

    def passes(self, name: str) -> dict[str, list[Pass]]:
        """Measured passes by axis. Raises IdlerError where the file cannot be read."""
        return self._careful.read(self._machines / "passes" / f"{name}.toml", measured.read)

    def prints(self, name: str) -> dict[str, list[TorquePrint]]:
        """Torque prints by axis. Raises IdlerError where the file cannot be read."""
        return self._careful.read(self._machines / "prints" / f"{name}.toml", torque_prints.read)

    def save_prints(self, name: str, kept: Mapping[str, Sequence[TorquePrint]]) -> None:
        """On the disk when this returns."""
        torque_prints.write(self._careful.place(self._machines / "prints" / f"{name}.toml"), kept)

    def save_passes(self, name: str, kept: Mapping[str, Sequence[Pass]]) -> None:
        """On the disk when this returns; the next revision takes them with it."""
        measured.write(self._careful.place(self._machines / "passes" / f"{name}.toml"), kept)

    def work_zeros(self, name: str) -> WorkSet:
        """The six work zeros. Raises IdlerError where the file cannot be read."""
        return self._careful.read(self._beside("work", name), work.read)

    def save_work_zeros(self, name: str, zeros: WorkSet) -> None:
        """On the disk when this returns."""
        work.write(self._careful.place(self._beside("work", name)), zeros)

    def tools(self, name: str) -> ToolSet:
        """Lengths of tools and radii. Raises IdlerError where the file cannot be read."""
        return self._careful.read(self._beside("tools", name), tools.read)

    def save_tools(self, name: str, kept: ToolSet) -> None:
        """On the disk when this returns."""
        tools.write(self._careful.place(self._beside("tools", name)), kept)

    def save_figure(self, name: str, kind: str, text: str) -> Path:
        """The program of a figure; its file is on the disk when this returns. Raises IdlerError."""
        path = self.root / "figures" / name / f"{kind}.nc"
        write_text(path, text)
        return path

    def opened(self, name: str) -> Opened:
        """Programs that were opened. Raises IdlerError where the file cannot be read."""
        return self._careful.read(self._beside("programs", name), opened.read)

    def save_opened(self, name: str, programs: Opened) -> None:
        """On the disk when this returns."""
        opened.write(self._careful.place(self._beside("programs", name)), programs)

    def doubts(self, name: str) -> dict[str, float]:
        """Homes in doubt by axis. Raises IdlerError where the file cannot be read."""
        return self._careful.read(self._beside("doubts", name), doubts.read)

    def save_doubts(self, name: str, off: Mapping[str, float]) -> None:
        """On the disk when this returns."""
        doubts.write(self._careful.place(self._beside("doubts", name)), off)

    def skips(self, name: str) -> dict[str, str]:
        """Reasons of what is left out, by the keys of the steps. Raises IdlerError where the file cannot be read."""
        return self._careful.read(self._beside("skips", name), skips.read)

    def save_skips(self, name: str, reasons: Mapping[str, str]) -> None:
        """On the disk when this returns."""
        skips.write(self._careful.place(self._beside("skips", name)), reasons)

    def drive(self, name: str) -> Registers:
        """The description of a machine's spindle drive; a blank one where none is kept. Raises IdlerError."""
        path = self._beside("drives", name)
        return self._careful.read(path, lambda path: registers.read(read_text(path))) if path.exists() else Registers()

    def save_drive(self, name: str, found: Registers) -> None:
        """On the disk when this returns."""
        write_text(self._careful.place(self._beside("drives", name)), registers.write(found))

    def startup(self, name: str, machine: Machine) -> dict[Address, Value]:
        """The values that the controller is given at each connect. Raises IdlerError."""
        return self._careful.read(self._beside("startup", name), lambda path: startup.read(path, machine))

    def save_startup(self, name: str, machine: Machine, values: Mapping[Address, Value]) -> None:
        """On the disk when this returns."""
        startup.write(self._careful.place(self._beside("startup", name)), machine, values)

    def controllers(self, name: str) -> Controllers:
        """What is known of the controllers of a machine, and of sends to them."""
        return Controllers(self._beside("sending", name), self.root / "heard", name, self._careful)

    @property
    def parts(self) -> Path:
        """Where it is kept which parts make a controller, and what Idler keeps and does for them."""
        return self.root / "parts"

    def incidents(self, name: str) -> IncidentFolder:
        return IncidentFolder(self._beside("incidents", name))

    def require_unlocked(self, name: str) -> None:
        """Raises IdlerError where the set-up of a machine is locked; a name that is not on the shelf is not."""
        if self.is_locked(name):
            raise pins.Locked(f"Machine {name}: its set-up is locked with a PIN. Unlock it first.")

    def of_controller(self, serial: int) -> list[str]:
        """The machines that this controller was connected as, by its serial number."""
        places = ((self.root / "heard", ".json"), (self._machines / "found", ".toml"))
        return [name for name in self.names() if any((at / f"{name}-{serial}{end}").exists() for at, end in places)]

    # -- drafts ---------------------------------------------------------------------------------------------------

    def save_draft(self, name: str, machine: Machine, base: Machine) -> None:
        """Writes what of a machine no revision holds yet: its edits against `base`. On the disk when this returns."""
        path = self._beside("drafts", name)
        reshaped = machine.names != base.names
        ground = Machine.shaped(machine.shape) if reshaped else base
        edits = machine.differences(ground)
        if not edits and not reshaped and not path.exists():
            return
        import tomlkit

        table = tomlkit.table()
        for address in edits:
            text = address.row.write(machine[address], rotary=machine.is_rotary(address))
            table.add(address_text(machine, address), text)
        document = tomlkit.document()
        document.add(tomlkit.comment("Edits that no revision holds yet."))
        if reshaped:
            document.add("axes", "".join(machine.names))
        if machine.shape != base.shape:
            document.add("inputs", machine.inputs)
            document.add("outputs", machine.outputs)
        document.add("edits", table)
        write_text(self._careful.place(path), tomlkit.dumps(document))

    def edit_draft(self, name: str, values: Mapping[Address, Value]) -> None:
        """Adds edits to the draft of a machine that is not open. Raises IdlerError where it is locked or cannot be read."""
        self.require_unlocked(name)
        base = self.load(name).machine
        machine, _ = self.draft(name, base)
        self.save_draft(name, machine.with_values(values), base)

    def draft(self, name: str, base: Machine) -> tuple[Machine, list[str]]:
        """A machine with its edits, and a sentence for each that can no longer be taken."""
        path = self._beside("drafts", name)
        if not path.exists():
            return base, []
        try:
            kept = filedata.toml(read_text(path))
            counts = (int(kept.get(key, getattr(base, key))) for key in ("inputs", "outputs"))
            axes = kept.get("axes")
            machine = Machine(tuple(str(axes)), {}, *counts) if axes else Machine(base.names, base.changed, *counts)
            edits = dict(kept.get("edits", {}))
        except (IdlerError, TypeError, ValueError, OverflowError) as why:
            self._careful.spoilt(path)
            return base, [f"The draft {path} cannot be read: {why}. The revision is shown; the file is kept beside."]
        found: dict[Address, Value] = {}
        lost: list[str] = []
        kinds = {key: text for key, text in edits.items() if key.endswith(".axis.kind")}
        for key, text in [*kinds.items(), *edits.items()]:
            address = address_from(machine, key)
            if address is None:
                lost.append(f"The draft has an edit of {key}, which this machine has not.")
                continue
            rotary = machine.with_values(found).is_rotary(address)
            try:
                found[address] = address.row.read(str(text), rotary=rotary, part=machine.part(address))
            except Refusal as why:
                lost.append(f"An edit of the draft cannot be taken. {why.sentence}")
        if lost:
            self._careful.spoilt(path)
        return machine.with_values(found), lost
