"""Revisions in a Git repository that ordinary git can read, clone and push."""

from __future__ import annotations

import time
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

from dulwich.errors import NotGitRepository
from dulwich.objects import Blob, Commit, Tree
from dulwich.repo import Repo

from idler.core.errors import IdlerError

from .files import FileTrouble

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
        except OSError as why:
            raise FileTrouble(
                f"{self._repo.path}: a revision cannot be kept ({(why.strerror or str(why)).lower()})."
            ) from None

    def _nothing_new(self) -> bool:
        """Whether what is staged is what the newest revision holds."""
        try:
            head = self._repo[self._repo.head()]
        except KeyError:
            return False
        assert isinstance(head, Commit)
        return bool(self._repo.open_index().commit(self._repo.object_store) == head.tree)

    def of(self, file_of: Callable[[str], str | None], moved: Callable[[str, str], None]) -> list[Revision]:
        """Revisions of a machine, newest first.

        file_of: the file of the machine that a changed path belongs to, or None. moved: told of each file that one
        commit moved, old path and new, after the commit was asked about: older commits know it by the old one.
        """
        try:
            head = self._repo.head()
        except KeyError:
            return []
        found: dict[tuple[bytes, str], tuple[Commit, str]] = {}
        for entry in self._repo.get_walker(include=[head]):
            changes = entry.changes()
            flat = [c for group in changes for c in (group if isinstance(group, list) else [group]) if c is not None]
            for change in flat:
                path = change.new.path if change.new is not None else None
                file = file_of(path.decode()) if path is not None else None
                if file is not None:
                    found[entry.commit.id, file] = entry.commit, file
            gone = {c.old.sha: c.old.path for c in flat if c.old is not None and c.new is None}
            for change in flat:
                if change.new is not None and change.old is None and change.new.sha in gone:
                    moved(gone[change.new.sha].decode(), change.new.path.decode())
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
