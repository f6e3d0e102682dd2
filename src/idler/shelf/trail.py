"""Which revisions each machine has: all commits read once, from the first to the last, and what they changed noted beside
the repository, so that the next start reads only what is new.

DIR/trail.jsonl, one line for each commit in their order:
[commit, its parent, seconds since 1970, note, [[path before, path after], …]]
with null for a path that was not there, and a path twice for a file that was changed in place.
"""

from __future__ import annotations

import json
import re
from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import NamedTuple

from dulwich.objects import ObjectID
from dulwich.repo import Repo

from .files import ARCHIVE, FileTrouble, append_text, write_text

Change = tuple[str | None, str | None]  # path before, path after


@dataclass(frozen=True)
class Revision:
    """number: counted from 1 for each machine. when: seconds since 1970. path: the file that it changed."""

    commit: str
    number: int
    note: str
    when: float
    path: str

    @property
    def as_found(self) -> bool:
        return self.path.startswith("found/")


class TrailStep(NamedTuple):
    """One commit and the files that it changed."""

    commit: str
    parent: str
    when: float
    note: str
    changes: tuple[Change, ...]


_Entry = tuple[bytes, bytes, bytes]  # mode, name, object as 20 bytes
_Difference = tuple[str, bytes | None, bytes | None]  # path, object before, object after
_FOLDER = b"40000"
_TREE_ENTRY = re.compile(rb"(\d+) ([^\0]+)\0(.{20})", re.DOTALL)
_PARENT = re.compile(rb"^tree [0-9a-f]{40}\nparent ([0-9a-f]{40})$", re.MULTILINE)
_COMMITTED = re.compile(rb"^committer .*> (\d+) [+-]\d{4}$", re.MULTILINE)
KEPT_TREES = 64
_PART = re.compile(r"(proofs|passes|locks)/(.+)\.toml")  # kept with a machine, of its name
_FOUND = re.compile(r"found/(.+)-\d+\.toml")
_MACHINE = re.compile(rf"((?:{ARCHIVE}/)?[^/]+)\.toml")


def _machine_of(path: str | None) -> tuple[str, str] | None:
    """The machine that a file belongs to, and the file that stands for the revision; None for any other file."""
    if path is None:
        return None
    if found := _PART.fullmatch(path):
        return found[2], f"{found[2]}.toml"
    if found := _FOUND.fullmatch(path):
        return found[1], path
    if found := _MACHINE.fullmatch(path):
        return found[1], path
    return None


class Trail:
    """Raises nothing: what cannot be noted is read again the next time."""

    def __init__(self, repository: Repo, file: Path) -> None:
        self._repository, self._file = repository, file
        self._machines: dict[str, dict[tuple[str, str], Revision]] | None = None
        self._head = ""
        self._read: dict[bytes, frozenset[_Entry]] = {}  # trees that were read last

    def of(self, name: str) -> list[Revision]:
        """The revisions of a machine, newest first, through every name that it has had."""
        self._catch_up()
        assert self._machines is not None
        listed = [*self._machines.get(name, {}).values()]
        return [
            Revision(item.commit, number, item.note, item.when, item.path)
            for number, item in enumerate(listed, start=1)
        ][::-1]

    def _catch_up(self) -> None:
        try:
            head = self._repository.head().decode()
        except KeyError:
            self._machines, self._head = {}, ""
            return
        if self._machines is not None and head == self._head:
            return
        noted = self._noted() if self._machines is None else []
        last = noted[-1].commit if noted else self._head
        new = self._since(head, last)
        if new is None:  # somebody went back in the repository, or began another
            noted, new = [], self._since(head, "") or []
            last = ""
        if self._machines is None or not last:
            self._machines = {}
        for step in (*noted, *new):
            self._take(step)
        self._head = head
        self._note(new, anew=not last)

    # -- commits ------------------------------------------------------------------------------------------------------

    def _since(self, head: str, last: str) -> list[TrailStep] | None:
        """What came after a commit, oldest first; None where the head does not come from it."""
        found: list[tuple[str, bytes]] = []
        at = head
        while at != last:
            raw = self._raw(at.encode())
            found.append((at, raw))
            parent = _PARENT.search(raw)
            if parent is None:
                if last:
                    return None
                break
            at = parent[1].decode()
        before = self._tree_of(self._raw(last.encode())) if last else None
        steps: list[TrailStep] = []
        for commit, raw in reversed(found):
            after = self._tree_of(raw)
            changes = tuple(_moves(self._changes(before, after, "")))
            when = _COMMITTED.search(raw)
            note = raw.partition(b"\n\n")[2].decode("utf-8", "replace").strip()
            came_from = steps[-1].commit if steps else last
            steps.append(TrailStep(commit, came_from, float(when[1]) if when else 0.0, note, changes))
            before = after
        return steps

    def _raw(self, name: bytes) -> bytes:
        return self._repository.object_store.get_raw(ObjectID(name))[1]

    def _tree_of(self, commit: bytes) -> bytes:
        return commit[5:45]  # "tree ", then its name

    def _entries(self, tree: bytes | None) -> frozenset[_Entry]:
        if tree is None:
            return frozenset()
        if tree not in self._read:
            if len(self._read) > KEPT_TREES:
                self._read.clear()
            self._read[tree] = frozenset(_TREE_ENTRY.findall(self._raw(tree)))
        return self._read[tree]

    def _changes(self, before: bytes | None, after: bytes | None, within: str) -> Iterator[_Difference]:
        """Files that differ between two trees; folders that are the same are not read."""
        old, new = self._entries(before), self._entries(after)
        gone = {name: (mode, sha) for mode, name, sha in old - new}
        come = {name: (mode, sha) for mode, name, sha in new - old}
        for name in (*gone, *(name for name in come if name not in gone)):
            path = within + name.decode("utf-8", "replace")
            was, now = gone.get(name), come.get(name)
            folders = [each[1].hex().encode() if each and each[0] == _FOLDER else None for each in (was, now)]
            if any(folders):
                yield from self._changes(folders[0], folders[1], f"{path}/")
            was, now = (each if each and each[0] != _FOLDER else None for each in (was, now))
            if was or now:
                yield path, was[1] if was else None, now[1] if now else None

    # -- what they say --------------------------------------------------------------------------------------------------

    def _take(self, step: TrailStep) -> None:
        machines = self._machines
        assert machines is not None
        for old, new in step.changes:  # a machine that was moved takes its revisions along
            was, now = _machine_of(old), _machine_of(new)
            if old is not None and new is not None and old != new and was and now and _MACHINE.fullmatch(new):
                machines[now[0]] = machines.pop(was[0], {})
        for old, new in step.changes:
            place = _machine_of(new)
            if new is None:
                gone = _PART.fullmatch(old or "")
                place = (gone[2], f"{gone[2]}.toml") if gone and gone[1] == "locks" else None
            if place is None:
                continue
            name, path = place
            if old is None and new == f"{name}.toml" and _MACHINE.fullmatch(new):
                machines[name] = {}  # a new one; whatever had that name before was another
            kept = machines.setdefault(name, {})
            kept.pop((step.commit, path), None)
            kept[step.commit, path] = Revision(step.commit, 0, step.note, step.when, path)

    # -- the notes ------------------------------------------------------------------------------------------------------

    def _noted(self) -> list[TrailStep]:
        try:
            lines = self._file.read_text("utf-8").splitlines()
            steps = [
                TrailStep(str(commit), str(parent), float(when), str(note), tuple((old, new) for old, new in changes))
                for commit, parent, when, note, changes in map(json.loads, lines)
            ]
            whole = all(
                step.parent == before for step, before in zip(steps, ["", *(s.commit for s in steps)], strict=False)
            )
            return steps if whole else []
        except (OSError, ValueError, TypeError):
            return []

    def _note(self, steps: Iterable[TrailStep], *, anew: bool) -> None:
        text = "".join(json.dumps(step, ensure_ascii=False) + "\n" for step in steps)
        try:
            if anew:
                write_text(self._file, text)
            elif text:
                append_text(self._file, text)
        except FileTrouble:
            return  # of a shelf that cannot be written; the next start reads again


def _moves(differences: Iterable[_Difference]) -> Iterator[Change]:
    """What became of the files; one that stands elsewhere as it was is moved."""
    listed = sorted(differences, key=lambda item: item[0])
    gone = {old: path for path, old, new in listed if old is not None and new is None}
    for path, old, new in listed:
        if old is None and new is not None:
            yield gone.pop(new, None), path
        elif old is not None and new is not None:
            yield path, path
    for path in gone.values():
        yield path, None
