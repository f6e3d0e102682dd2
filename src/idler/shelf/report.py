"""The report of a machine as a page of HTML: one file with everything in it, made to be printed on A4 or Letter."""

from __future__ import annotations

import time
from importlib import resources

from idler.core.report import Report


def day(when: float) -> str:
    """Seconds since 1970 as a person writes a day."""
    return time.strftime("%-d %b %Y, %H:%M", time.localtime(when))


def html(found: Report, revision: str, when: float) -> str:
    """revision: in words. when: it is made. All texts are escaped: names in a machine file are no markup."""
    import jinja2

    environment = jinja2.Environment(autoescape=True, undefined=jinja2.StrictUndefined, trim_blocks=True)
    environment.filters["day"] = day
    source = (resources.files("idler") / "data" / "report.html.j2").read_text("utf-8")
    return environment.from_string(source).render(r=found, revision=revision, printed=day(when))
