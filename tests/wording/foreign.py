"""A language that is made up: every letter of a sentence has a mark, so that what is shown without one was not translated."""

from __future__ import annotations

import re
from pathlib import Path
from string import Formatter

from babel.messages.pofile import read_po, write_po

from idler.wording import catalogue

NAME = "xx"
_MARKED = str.maketrans("aceghijklnorsuwyzACEGHIJKLNORSUWYZ", "àçéĝĥíĵķĺñóŕšúŵýžÀÇÉĜĤÍĴĶĹÑÓŔŠÚŴÝŽ")
_PLAIN = re.compile(r"\b[A-Za-z]{4,}\b")


def marked(text: str, *, holes: bool) -> str:
    if not holes:
        return text.translate(_MARKED)
    made = []
    for words, label, spec, how in Formatter().parse(text):
        made.append(words.translate(_MARKED).replace("{", "{{").replace("}", "}}"))
        if label is not None:
            made.append(f"{{{label}{f'!{how}' if how else ''}{f':{spec}' if spec else ''}}}")
    return "".join(made)


def make(folder: Path) -> Path:
    """A folder of it, complete."""
    to = folder / NAME
    catalogue.write(to)
    for path in to.glob("*.po"):
        with path.open("rb") as file:
            made = read_po(file)
        for message in made:
            if message.id:
                message.string = marked(str(message.id), holes="python-brace-format" in message.flags)
        with path.open("wb") as file:
            write_po(file, made, width=0)
    return to


def plain(text: str) -> bool:
    """Whether a word of it has no mark."""
    return _PLAIN.search(re.sub(r"<[^>]*>|&\w+;", " ", text)) is not None
