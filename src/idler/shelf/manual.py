"""The help as it lies in the package, and as a manual: one page of HTML with its pictures in it, or a PDF."""

from __future__ import annotations

import base64
import re
from collections.abc import Mapping
from functools import lru_cache
from importlib import resources
from pathlib import Path

from idler.core.report.manual import FILES, Page, pages_of
from idler.wording.spoken import data

from .report import PNG, on_paper, written

_LINK = re.compile(r'href="(?P<key>[a-z_-]+(?:/[a-z_-]+)?)"')
_PICTURE = re.compile(r'src="\.\./screenshots/(?P<name>[a-z-]+\.png)"')


def read_pages(words: Mapping[str, bool]) -> tuple[Page, ...]:
    """All pages in the order in which they are read. words: of each procedure, whether it is of one axis at a time."""
    return _read(tuple(words.items()))


@lru_cache(maxsize=1)
def _read(words: tuple[tuple[str, bool], ...]) -> tuple[Page, ...]:
    return tuple(
        page for name in FILES for page in pages_of(name, data(f"help/{name}.md").read_text("utf-8"), dict(words))
    )


def picture(name: str) -> bytes:
    """A picture of the help, by its name."""
    return (resources.files("idler") / "data" / "screenshots" / name).read_bytes()


def page_html(page: Page) -> str:
    """What stands on a page, as HTML without head and body."""
    from markdown_it import MarkdownIt

    made = MarkdownIt("commonmark").render(page.text)
    assert isinstance(made, str)
    return made


def manual_html(pages: tuple[Page, ...], paper: str) -> str:
    """All pages on one, with a list of them at its head. It needs no other file."""
    import jinja2

    source = data("manual.html.j2").read_text("utf-8")
    environment = jinja2.Environment(autoescape=True, undefined=jinja2.StrictUndefined, trim_blocks=True)
    bodies = {page.key: _LINK.sub(r'href="#\g<key>"', _PICTURE.sub(_held, page_html(page))) for page in pages}
    return environment.from_string(source).render(pages=pages, bodies=bodies, paper=paper)


def _held(found: re.Match[str]) -> str:
    return f'src="{PNG}{base64.b64encode(picture(found["name"])).decode()}"'


def write_manual(path: Path, pages: tuple[Page, ...], paper: str) -> None:
    """A PDF or a page, by the ending of the name. On the disk when this returns. Raises IdlerError."""
    written(path, "a manual", lambda: manual_html(pages, paper), lambda: on_paper(manual_html(pages, paper)))
