"""A translation's words, put into the modules of Idler as they are loaded. They are compiled once, and kept beside it."""

from __future__ import annotations

import hashlib
import json
import marshal
import os
import sys
from collections.abc import Mapping, Sequence
from contextlib import suppress
from dataclasses import dataclass
from importlib.abc import MetaPathFinder
from importlib.machinery import ModuleSpec, PathFinder, SourceFileLoader
from pathlib import Path
from types import CodeType, ModuleType
from typing import cast

from .sentences import spoken, subject

WORDS = "sentences.json"


@dataclass(frozen=True)
class Translation:
    """language: as ISO 639 names it. words: by subject, then by the English sentence. folder: where its data lies."""

    language: str
    words: Mapping[str, Mapping[str, str]]
    folder: Path
    digest: str


def load(folder: Path) -> Translation | None:
    """None where there is none, or it cannot be read."""
    with suppress(OSError, ValueError):
        data = (folder / WORDS).read_bytes()
        if _are_words(words := json.loads(data)):
            return Translation(folder.name, words, folder, hashlib.sha256(data).hexdigest()[:16])
    return None


def _are_words(found: object) -> bool:
    """Whether it is what was put there, and not what a hand or a disk has made of it."""
    return isinstance(found, dict) and all(
        isinstance(words, dict) and all(isinstance(word, str) for word in words.values()) for words in found.values()
    )


class Speaker(MetaPathFinder):
    """Finds the modules of Idler, in the words of a translation."""

    def __init__(self, translation: Translation) -> None:
        self._translation = translation

    def find_spec(
        self, fullname: str, path: Sequence[str] | None, target: ModuleType | None = None
    ) -> ModuleSpec | None:
        if not fullname.startswith("idler.") or not (words := self._translation.words.get(subject(fullname))):
            return None
        spec = PathFinder.find_spec(fullname, path, target)
        if spec is not None and type(spec.loader) is SourceFileLoader:
            kept = self._translation.folder / self._translation.digest
            spec.loader = _Loader(fullname, spec.loader.path, words, kept)
        return spec


class _Loader(SourceFileLoader):
    def __init__(self, name: str, path: str, words: Mapping[str, str], kept: Path) -> None:
        super().__init__(name, path)
        self._words, self._kept = words, kept

    def get_code(self, fullname: str) -> CodeType | None:
        code = self._translated(fullname, self.get_data(self.path))
        return code if code is not None else super().get_code(fullname)

    def _translated(self, fullname: str, source: bytes) -> CodeType | None:
        """None where it says nothing that is translated."""
        key = hashlib.sha256(source + sys.version.encode()).hexdigest()[:24]
        kept = self._kept / f"{fullname}-{key}"
        with suppress(OSError, ValueError, EOFError, TypeError):
            return cast("CodeType | None", marshal.loads(kept.read_bytes()))
        tree = spoken(source.decode("utf-8"), self._words)
        code = compile(tree, self.path, "exec", dont_inherit=True) if tree is not None else None
        with suppress(OSError):
            kept.parent.mkdir(exist_ok=True)
            made = kept.with_name(f"{kept.name}.{os.getpid()}")
            made.write_bytes(marshal.dumps(code))
            made.replace(kept)
        return code
