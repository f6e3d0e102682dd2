"""The pages of the help: one for each station, each procedure, each kind of finding and of refusal, and some about the whole.

A file of Markdown is a page; a heading of its second rank that ends with the word of a procedure in brackets, or with codes of
findings or of refusals, begins a page of its own. What is said of a procedure beside that (how it is begun on the terminal,
what it needs) comes from the tables; without a picture of its own it has the first of its station.
"""

from __future__ import annotations

import re
from collections.abc import Collection, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass

from ..errors import IdlerError
from ..table.stations import Station
from .agenda import WAYS
from .finder import Entry, Sort

FILES = (
    "start",
    "example",
    *(station.key for station in Station),
    "stopped",
    "findings",
    "refusals",
    "keys",
    "terminal",
    "glossary",
)
_PART = re.compile(
    r"^## (?P<title>.+?) \((?:(?:finding|refusal): (?P<codes>[a-z_]+(?:, [a-z_]+)*)|(?P<word>[a-z]+(?:-[a-z]+)*))\)$",
    re.MULTILINE,
)
_PICTURE = re.compile(r"!\[[^\]]*\]\([^)]*\)")
_REFUSED = "[When something is refused](refusals)"
_TITLE = re.compile(r"\A# (?P<title>.+)\n")


@dataclass(frozen=True)
class Page:
    """key: the name of its file, and after a stroke the word of its procedure or the first code of its findings.
    text: Markdown, with its title."""

    key: str
    title: str
    text: str
    word: str = ""  # of its procedure
    codes: tuple[str, ...] = ()  # of its findings or refusals

    @property
    def part(self) -> bool:
        """Whether it is a part of the page of its file."""
        return "/" in self.key


def pages_of(name: str, text: str, words: Mapping[str, bool]) -> Iterator[Page]:
    """The pages of one file. words: of each procedure, whether it is done with one axis at a time.

    Raises IdlerError where the file has no title, or a heading names a procedure that is none.
    """
    if (head := _TITLE.match(text)) is None:
        raise IdlerError(f"{name}: a page of the help begins with its title.")
    found = list(_PART.finditer(text))
    ends = [*(each.start() for each in found[1:]), len(text)] if found else []
    parts = "".join(f"- [{each['title']}]({name}/{_name(each)})\n" for each in found)
    seen = _PICTURE.search(text)
    listed = "What it may be" if found and found[0]["codes"] else "What is done here"
    refused = f"\n{_REFUSED}\n" if name != "refusals" else ""
    whole = f"{text[: found[0].start()]}## {listed}\n\n{parts}{refused}" if found else text
    yield Page(name, head["title"], whole)
    for each, end in zip(found, ends, strict=True):
        word, body = each["word"], text[each.end() : end].strip()
        if not word:
            told, codes = (
                f"# {each['title']}\n\n{body}\n\n[{head['title']}]({name})\n",
                tuple(each["codes"].split(", ")),
            )
            yield Page(f"{name}/{_name(each)}", each["title"], told, codes=codes)
            continue
        if word not in words:
            raise IdlerError(f"{name}: {word} is no procedure.")
        picture = "" if seen is None or _PICTURE.search(body) else f"\n{seen[0]}\n"
        told = f"# {each['title']}\n\n{body}\n\n{_told(word, words[word])}{picture}"
        yield Page(f"{name}/{word}", each["title"], told, word)


def _name(part: re.Match[str]) -> str:
    """What a part is called in its key."""
    codes: str = part["codes"] or part["word"]
    return codes.split(", ")[0]


def _told(word: str, of_axis: bool) -> str:
    """How it is begun, what it needs and how long it takes, by the tables."""
    ways = [way for way in WAYS.values() if way.procedure.split()[0] == word]
    needs = list(dict.fromkeys(need for way in ways for need in way.needs))
    lines = [f"It needs: {', '.join(needs)}."] if needs else []
    if ways:
        lines.append(f"An unhurried person takes some {max(way.minutes for way in ways):g} minutes for it.")
    axis = " --axis X" if of_axis else ""
    told = " ".join([*lines, f"On the terminal: `./idler run {word} NAME --to ADDRESS{axis}`"])
    return f"{told}\n\n{_REFUSED}\n"


def entries(pages: Iterable[Page]) -> Iterator[Entry]:
    """As they are found by a word."""
    for page in pages:
        yield Entry(Sort.HELP, page.title, "", page.text, help=page.key)


def page_of(pages: Sequence[Page], key: str) -> Page:
    """By its key, the word of its procedure, or the code of a finding or refusal. Raises IdlerError where there is none."""
    for page in pages:
        if key in (page.key, page.word, *page.codes):
            return page
    raise IdlerError(f"The help has no page {key}. It has {', '.join(page.key for page in pages)}.")


def about(pages: Iterable[Page], station: Station, shown: Collection[str]) -> str:
    """The key of the page that tells of what is on the stage: of a procedure where the pages of the station that are shown (by
    their names) are about one alone, else of the station."""
    words = {way.procedure.split()[0] for way in WAYS.values() if way.page and way.page in shown}
    here = [page.key for page in pages if page.word in words and page.key.startswith(f"{station.key}/")]
    return here[0] if len(here) == 1 else station.key
