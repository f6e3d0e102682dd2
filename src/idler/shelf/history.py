"""Revisions in a Git repository that ordinary git can read, clone and push."""

from __future__ import annotations

import contextlib
import threading
import time
from pathlib import Path

from dulwich.file import FileLocked
from dulwich.objects import Blob, Commit, Tree

from idler.core.errors import IdlerError

from .files import FileTrouble
from .repository import opened
from .trail import Revision, Trail

_AUTHOR = b"Idler <idler@localhost>"


class History:
    """Makes the repository where there is none. notes: where its commits are noted. Raises FileTrouble.

    Methods may be called from any thread; one at a time is at work.
    """

    def __init__(self, folder: Path, notes: Path) -> None:
        self._repo = opened(folder)
        self._trail = Trail(self._repo, notes)
        self._control = folder / ".git"
        self._one = threading.RLock()

    def commit(self, paths: list[str], note: str, when: float) -> None:
        """Commits files as they are in the folder. Times are local, as git shows them."""
        with self._one:
            self._commit(paths, note, when)

    def _commit(self, paths: list[str], note: str, when: float) -> None:
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
                sign=False,
                no_verify=True,
            )
        except FileLocked as why:
            raise FileTrouble(
                f"{self._repo.path}: a revision cannot be kept ({Path(str(why.lockfilename)).name} is in the way). Another "
                "program is at work in the repository, or was killed there; then start Idler anew, which mends it."
            ) from None
        except OSError as why:
            self._clear()
            raise FileTrouble(
                f"{self._repo.path}: a revision cannot be kept ({(why.strerror or str(why)).lower()})."
            ) from None

    def _clear(self) -> None:
        """Takes away what a disk that was full left half written."""
        for pattern in ("index.lock", "objects/**/tmp*", "refs/**/*.lock", "HEAD.lock"):
            for half in self._control.glob(pattern):
                with contextlib.suppress(OSError):
                    half.unlink()

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
        with self._one:
            return self._trail.of(name)

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
