"""Revisions in a Git repository that ordinary git can read, clone and push."""

from __future__ import annotations

import re
import time
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from dulwich.errors import NotGitRepository
from dulwich.file import FileLocked
from dulwich.objects import Blob, Commit, Tree
from dulwich.repo import Repo

from idler.core.errors import IdlerError

from .files import ARCHIVE, FileTrouble

_AUTHOR = b"Idler <idler@localhost>"


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


class _Trail:
    """The files of a machine, as the commits know them from the newest to the one that put it on the shelf."""

    def __init__(self, name: str) -> None:
        self._file, self._name = f"{name}.toml", name

    def file_of(self, change: Any) -> str | None:
        """The file of the machine that a change belongs to, or None."""
        if change.new is None:
            gone = change.old.path.decode()
            return self._file if gone == f"locks/{self._name}.toml" else None  # a PIN that was taken away is a mark
        path, name = change.new.path.decode(), self._name
        if path in (self._file, *(f"{folder}/{name}.toml" for folder in ("proofs", "passes", "locks"))):
            return self._file
        return path if re.fullmatch(rf"found/{name}-\d+\.toml", path) else None

    def begins_with(self, changes: list[Any]) -> bool:
        """True where these put the machine on the shelf; where they moved it, older ones know it by its old place."""
        gone = {change.old.sha: change.old.path.decode() for change in changes if change.new is None}
        for change in changes:
            if change.old is None and change.new.path.decode() == self._file:
                if change.new.sha not in gone:
                    return True
                self._file = gone[change.new.sha]
                self._name = self._file.removeprefix(f"{ARCHIVE}/").removesuffix(".toml")
                return False
        return False


class History:
    """Makes the repository where there is none. Raises FileTrouble."""

    def __init__(self, folder: Path) -> None:
        try:
            folder.mkdir(parents=True, exist_ok=True)
            try:
                self._repo = Repo(str(folder))
            except NotGitRepository:
                self._repo = Repo.init(str(folder))
        except OSError as why:
            raise FileTrouble(f"{folder}: cannot be used ({(why.strerror or str(why)).lower()}).") from None
        self._control = folder / ".git"

    def commit(self, paths: list[str], note: str, when: float) -> None:
        """Commits files as they are in the folder. Times are local, as git shows them."""
        try:
            worktree = self._repo.get_worktree()
            worktree.stage(paths)
            if self._nothing_new():
                raise IdlerError("Nothing has changed since the last revision: there is nothing to keep.")
            worktree.commit(
                message=note.encode(),
                committer=_AUTHOR,
                author=_AUTHOR,
                commit_timestamp=int(when),
                author_timestamp=int(when),
                commit_timezone=(offset := time.localtime(when).tm_gmtoff),
                author_timezone=offset,
            )
        except FileLocked as why:
            raise FileTrouble(
                f"{self._repo.path}: a revision cannot be kept ({Path(str(why.lockfilename)).name} is in the way). Another "
                "program is at work in the repository, or was killed there; then start Idler anew, which mends it."
            ) from None
        except OSError as why:
            raise FileTrouble(
                f"{self._repo.path}: a revision cannot be kept ({(why.strerror or str(why)).lower()})."
            ) from None

    def recover(self, when: float) -> bool:
        """After a program that was killed while it kept something: its locks go, and what it left becomes a revision.

        Only for the one that holds the shelf. True where something was left.
        """
        from dulwich import porcelain

        for lock in list(self._control.rglob("*.lock")):
            lock.unlink(missing_ok=True)
        found = porcelain.status(self._repo, untracked_files="all")
        changed = [*found.unstaged, *found.untracked, *(path for paths in found.staged.values() for path in paths)]
        names = {path.decode() if isinstance(path, bytes) else str(path) for path in changed}
        left = sorted(name for name in names if name.endswith(".toml") and "/." not in f"/{name}"
                      and not name.startswith(("proofs/", "passes/")))  # fmt: skip
        if left:
            self.commit(left, "What was being kept when Idler ended", when)
        return bool(left)

    def _nothing_new(self) -> bool:
        """Whether what is staged is what the newest revision holds."""
        try:
            head = self._repo[self._repo.head()]
        except KeyError:
            return False
        assert isinstance(head, Commit)
        return bool(self._repo.open_index().commit(self._repo.object_store) == head.tree)

    def of(self, name: str) -> list[Revision]:
        """Revisions of a machine, newest first, through every name that it has had."""
        try:
            head = self._repo.head()
        except KeyError:
            return []
        trail = _Trail(name)
        found: dict[tuple[bytes, str], tuple[Commit, str]] = {}
        for entry in self._repo.get_walker(include=[head]):
            changes = entry.changes()
            flat = [c for group in changes for c in (group if isinstance(group, list) else [group]) if c is not None]
            for change in flat:
                if (file := trail.file_of(change)) is not None:
                    found[entry.commit.id, file] = entry.commit, file
            if trail.begins_with(flat):
                break
        return [
            Revision(
                commit.id.decode(), len(found) - place, commit.message.decode("utf-8", "replace").strip(),
                float(commit.commit_time), path,
            )
            for place, (commit, path) in enumerate(found.values())
        ]  # fmt: skip

    def text(self, revision: Revision) -> str:
        """The file of a revision as it was."""
        commit = self._repo[revision.commit.encode()]
        assert isinstance(commit, Commit)
        tree = self._repo[commit.tree]
        assert isinstance(tree, Tree)
        _, blob_id = tree.lookup_path(self._repo.__getitem__, revision.path.encode())
        blob = self._repo[blob_id]
        assert isinstance(blob, Blob)
        return blob.data.decode()
