"""The Git repository of a shelf, made and written without anything that is the person's own: no settings of theirs, no
signing, no hooks, no filters, no attributes. What is kept is what stands in the files, byte by byte."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from dulwich.config import ConfigFile, StackedConfig
from dulwich.errors import NotGitRepository
from dulwich.repo import Repo

from .files import FileTrouble

LOOSE = 800  # single objects from which on they are packed


class _AsItIs:
    """In the place of filters and line ends."""

    def checkin_normalize(self, blob: Any, _path: bytes) -> Any:
        return blob

    checkout_normalize = checkin_normalize


class Repository(Repo):
    def __init__(self, *arguments: Any, **more: Any) -> None:
        super().__init__(*arguments, **more)
        self.hooks.clear()
        self._autogc_disabled = True  # nothing is packed or thrown away while something is kept: `pack` does it

    def get_config_stack(self) -> StackedConfig:
        return StackedConfig([ConfigFile()])

    def get_blob_normalizer(self, config: Any = None, tree: bytes | None = None) -> Any:
        return _AsItIs()


def opened(folder: Path) -> Repository:
    """Made where there is none. Raises FileTrouble."""
    try:
        folder.mkdir(parents=True, exist_ok=True)
        try:
            return Repository(str(folder))
        except NotGitRepository:
            made = Repository.init(str(folder), config=StackedConfig([ConfigFile()]))
            made.close()
            return Repository(str(folder))
    except OSError as why:
        raise FileTrouble(f"{folder}: cannot be used ({(why.strerror or str(why)).lower()}).") from None
    except ValueError as why:
        raise FileTrouble(f"{folder}: is a Git repository that cannot be read ({str(why)[:80]}).") from None


def scattered(folder: Path) -> bool:
    """Whether a repository has many single objects. As Git reckons: one of 256 folders tells of all."""
    one = folder / ".git" / "objects" / "17"
    return one.is_dir() and sum(1 for _ in one.iterdir()) * 256 >= LOOSE


def pack(folder: Path) -> None:
    """Packs single objects. Whoever reads or adds to the repository meanwhile loses nothing. Raises FileTrouble."""
    repository = opened(folder)
    try:
        repository.object_store.pack_loose_objects()
    except OSError as why:
        raise FileTrouble(f"{folder}: its revisions were not packed ({(why.strerror or str(why)).lower()}).") from None
    finally:
        repository.close()
