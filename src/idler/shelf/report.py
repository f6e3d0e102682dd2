"""The report of a machine as a page of HTML or a PDF from the same template: everything in one file, on A4 or Letter."""

from __future__ import annotations

import logging
from collections.abc import Callable
from pathlib import Path

from idler.core.errors import IdlerError
from idler.core.report import Report
from idler.core.wiring.diagram import WIDTH, Box, Ring, Stroke
from idler.wording.spoken import data

from .dates import moment
from .files import write_bytes, write_text

PAPERS = ("A4", "Letter")
PNG = "data:image/png;base64,"  # how a picture stands in a page


def html(found: Report, revision: str, when: float, paper: str = PAPERS[0], *, wiring_only: bool = False) -> str:
    """revision: in words. when: it is made. wiring_only: the sheet for the cabinet.

    All texts are escaped: names in a machine file are no markup.
    """
    import jinja2

    environment = jinja2.Environment(autoescape=True, undefined=jinja2.StrictUndefined, trim_blocks=True)
    environment.filters["day"] = moment
    environment.filters["points"] = _points
    environment.tests["stroke"] = lambda shape: isinstance(shape, Stroke)
    environment.tests["box"] = lambda shape: isinstance(shape, Box)
    environment.tests["ring"] = lambda shape: isinstance(shape, Ring)
    source = data("report.html.j2").read_text("utf-8")
    page = environment.from_string(source)
    return page.render(
        r=found, revision=revision, printed=moment(when), paper=paper, width=WIDTH, wiring_only=wiring_only
    )


def pdf(found: Report, revision: str, when: float, paper: str = PAPERS[0], *, wiring_only: bool = False) -> bytes:
    """The same page on paper. Raises IdlerError where the system has no library that sets text."""
    return on_paper(html(found, revision, when, paper, wiring_only=wiring_only))


def on_paper(page: str) -> bytes:
    """A page of HTML that needs no other file, as a PDF. Raises IdlerError where the system has no library that sets text."""
    try:
        import weasyprint
        from weasyprint.urls import URLFetcher
    except OSError:
        raise IdlerError(
            "A PDF needs the system library pango. Run: sudo apt-get install libpango-1.0-0 "
            "libpangoft2-1.0-0. The same as HTML needs nothing, and a browser prints it."
        ) from None
    logging.getLogger("fontTools").setLevel(logging.WARNING)
    # Nothing is fetched for it, whatever a name in it looks like: its pictures stand in the page.
    made = weasyprint.HTML(string=page, url_fetcher=URLFetcher(allowed_protocols=("data",))).write_pdf()
    assert isinstance(made, bytes)
    return made


def _points(stroke: Stroke) -> str:
    """As an SVG polyline has them."""
    return " ".join(f"{x:g},{y:g}" for x, y in stroke.points)


ENDINGS = (".pdf", ".html", ".htm")


def write_report(
    path: Path, found: Report, revision: str, when: float, paper: str = PAPERS[0], *, wiring_only: bool = False
) -> None:
    """A PDF or a page, by the ending of the name. On the disk when this returns. Raises IdlerError."""
    written(
        path, "a report", lambda: html(found, revision, when, paper, wiring_only=wiring_only),
        lambda: pdf(found, revision, when, paper, wiring_only=wiring_only),
    )  # fmt: skip


def written(path: Path, what: str, page: Callable[[], str], paper: Callable[[], bytes]) -> None:
    """What is to be read as a page or on paper, by the ending of the name. Raises IdlerError."""
    if path.suffix.lower() not in ENDINGS:
        raise IdlerError(f"{path.name}: {what} ends with {' or '.join(ENDINGS)}.")
    if not path.parent.is_dir():
        raise IdlerError(f"{path.parent}: is no folder. Make it first, or write elsewhere.")
    if path.suffix.lower() == ".pdf":
        write_bytes(path, paper())
    else:
        write_text(path, page())
