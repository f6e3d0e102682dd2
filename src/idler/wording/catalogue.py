"""What Idler says, gathered for a translator, and what the translator made of it, taken.

A translation is a folder, named after its language (ISO 639). It has gettext's PO file for each subject, and may have
`help/*.md`, `report.html.j2` and `manual.html.j2` in place of the English ones.
"""

from __future__ import annotations

import json
import shutil
from codecs import BOM_UTF8
from collections import defaultdict
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from functools import cache
from io import BytesIO
from itertools import chain
from pathlib import Path

from babel.messages.catalog import Catalog
from babel.messages.pofile import PoFileError, read_po, write_po

from idler.core.errors import IdlerError

from . import spoken
from .loading import WORDS, Translation, load
from .sentences import Heard, has_holes, heard, subject, unknown

_SOURCES = Path(__file__).parents[1]
_HEAD = (
    "# What Idler says of one subject. A hole like {axis.name} stays as it is; it may stand elsewhere, or be left out."
)
_BESIDE = ("help", "report.html.j2", "manual.html.j2")  # pages and papers, whole


class Untranslated(IdlerError):
    """A folder of a translation that cannot be read, or asks for what its sentences have not."""


@dataclass(frozen=True)
class Progress:
    """Of one subject. wrong: what keeps it from being spoken, a line each."""

    subject: str
    all: int
    done: int
    wrong: tuple[str, ...]


def gathered() -> dict[str, Catalog]:
    """By subject, all that Idler says about it, in the order of its sources."""
    found: defaultdict[str, Catalog] = defaultdict(_empty)
    for about, place in _places():
        for said in _heard_at(place).sentences:
            message = found[about].add(
                said.text, locations=[(place.as_posix(), said.line)],
                auto_comments=[f"{hole} is {stands}" for hole, stands in said.holes.items()],
            )  # fmt: skip
            message.flags -= {"python-format"}  # a per cent sign is one
            message.flags |= {"python-brace-format"} if said.made_up else set()
    return dict(sorted(found.items()))


@cache
def _places() -> tuple[tuple[str, Path], ...]:
    """The modules that say something, below the sources, each with its subject."""
    places = sorted(path.relative_to(_SOURCES) for path in _SOURCES.rglob("*.py"))
    subjects = (subject(".".join(("idler", *place.with_suffix("").parts))) for place in places)
    return tuple((about, place) for about, place in zip(subjects, places, strict=True) if about)


@cache
def _heard_at(place: Path) -> Heard:
    return heard((_SOURCES / place).read_text("utf-8"))


def _apart(about: str) -> Iterator[tuple[str, ...]]:
    """Words of a subject that a translation may not make the same."""
    return chain.from_iterable(_heard_at(place).apart for each, place in _places() if each == about)


def write(folder: Path) -> int:
    """Puts all sentences there, with the translations that are there already, and returns how many they are.

    What changed since is marked fuzzy, and is not spoken before it was looked at; so is what was translated under another
    subject. Raises OSError, Untranslated.
    """
    folder.mkdir(parents=True, exist_ok=True)
    elsewhere = {text: words for path in sorted(folder.glob("*.po")) for text, words in _made(path).items()}
    count = 0
    for about, template in gathered().items():
        there = folder / f"{about}.po"
        catalogue = _read(there) if there.exists() else _empty()
        catalogue.update(template)
        for message in catalogue:
            if message.id and not message.string and (words := elsewhere.get(str(message.id))):
                message.string = words
                message.flags.add("fuzzy")
        count += len(template)
        made = there.with_suffix(".new")
        with made.open("wb") as file:
            write_po(file, catalogue, width=0, omit_header=False, sort_by_file=False)
        made.replace(there)
    return count


def judged(folder: Path) -> Iterator[Progress]:
    """How far a translation is, by subject. Raises Untranslated where it cannot be read."""
    if not folder.is_dir():
        raise Untranslated(f"{folder}: there is no such folder. Begin one: idler language write {folder}.")
    for about, template in gathered().items():
        path = folder / f"{about}.po"
        made = _made(path)
        known = {message.id for message in template if message.id}
        yield Progress(about, len(known), len(known & made.keys()), tuple(_wrong(path, made)))


def take(folder: Path) -> Translation:
    """A copy of it is spoken from the next start. Raises Untranslated, OSError."""
    if folder.resolve().name == spoken.ENGLISH:
        raise Untranslated(
            f"{folder}: “{spoken.ENGLISH}” is what Idler speaks by itself. Name the folder after its language."
        )
    words = {path.stem: made for path in sorted(folder.glob("*.po")) if (made := _made(path))}
    if wrong := [line for about, made in words.items() for line in _wrong(folder / f"{about}.po", made)]:
        more = f" And {len(wrong) - 1} more." if len(wrong) > 1 else ""
        raise Untranslated(f"{wrong[0]}.{more}")
    if not words:
        raise Untranslated(f"{folder}: nothing is translated yet.")
    to = spoken.home() / folder.resolve().name
    shutil.rmtree(to, ignore_errors=True)
    to.mkdir(parents=True)
    for name in _BESIDE:
        if (folder / name).is_dir():
            shutil.copytree(folder / name, to / name)
        elif (folder / name).exists():
            shutil.copy(folder / name, to / name)
    (to / WORDS).write_text(json.dumps(words, ensure_ascii=False), "utf-8")
    spoken.choose(to.name)
    taken = load(to)
    assert taken is not None
    return taken


def _wrong(path: Path, made: Mapping[str, str]) -> Iterator[str]:
    for text, words in made.items():
        if has_holes(text) and (lost := unknown(text, words)):
            holes = ", ".join(f"{{{hole}}}" for hole in sorted(lost))
            yield f"{path.name}: “{words}” has {holes}, which “{text}” has not"
    for names in _apart(path.stem):
        first: dict[str, str] = {}
        for name in names:
            if (other := first.setdefault(words := made.get(name, name), name)) != name:
                yield f"{path.name}: “{other}” and “{name}” are told apart by their words, and both would be “{words}”"


def _empty() -> Catalog:
    return Catalog(project="Idler", charset="utf-8", fuzzy=False, header_comment=_HEAD)


def _made(path: Path) -> Mapping[str, str]:
    """What is translated, and was not marked to be looked at."""
    if not path.exists():
        return {}
    found = (each for each in _read(path) if each.id and each.string and not each.fuzzy)
    return {each.id: str(each.string) for each in found if isinstance(each.id, str)}


def _read(path: Path) -> Catalog:
    try:
        return read_po(BytesIO(path.read_bytes().removeprefix(BOM_UTF8)), abort_invalid=True)
    except (PoFileError, UnicodeDecodeError, ValueError) as why:
        raise Untranslated(f"{path}: is no PO file ({why}).") from None
