"""The man page, made from the command line itself (roff with the macros of man(7))."""

from __future__ import annotations

import re
from collections.abc import Iterator

import click

_WIDTH = 100_000  # columns: the page is wrapped by whoever shows it


def man_page(program: click.Group, name: str, version: str) -> str:
    """All words with their options, in the order in which they are listed."""
    context = click.Context(program, info_name=name, max_content_width=_WIDTH, terminal_width=_WIDTH)
    about = (program.help or "").split("\n\n")
    lines = [
        f'.TH {name.upper()} 1 "" "{name} {version}"',
        ".SH NAME",
        f"{name} \\- teaches a CNC controller a machine, and proves each value by moving",
        ".SH SYNOPSIS",
        f".B {name}",
        "[OPTIONS] [COMMAND] [ARGS]...",
        ".SH DESCRIPTION",
    ]
    for paragraph in about:
        lines += [_text(paragraph), ".PP"]
    lines += [".SH OPTIONS", *_options(program, context), ".SH COMMANDS", *_commands(program, context)]
    lines += [".SH SEE ALSO", f".B {name} help", "prints the pages of the help."]
    return "\n".join(lines) + "\n"


def _commands(group: click.Group, context: click.Context, before: str = "") -> Iterator[str]:
    for word in group.list_commands(context):
        command = group.get_command(context, word)
        if command is None or command.hidden:
            continue
        at = click.Context(command, info_name=word, parent=context, max_content_width=_WIDTH, terminal_width=_WIDTH)
        yield f".SS {_quoted(f'{before}{word} ' + ' '.join(command.collect_usage_pieces(at)))}"
        for paragraph in (command.help or "").split("\n\n"):
            yield _text(paragraph)
            yield ".PP"
        yield from _options(command, at)
        if isinstance(command, click.Group):
            yield from _commands(command, at, f"{before}{word} ")


def _options(command: click.Command, context: click.Context) -> Iterator[str]:
    for parameter in command.get_params(context):
        record = parameter.get_help_record(context)
        if record is not None and record[1]:
            yield ".TP"
            yield f".B {_quoted(record[0])}"
            yield _text(record[1])


def _text(words: str) -> str:
    """A paragraph in one line, in which nothing is taken for a request of roff."""
    told = _escaped(re.sub(r"\s+", " ", words).strip())
    return f"\\&{told}" if told[:1] in (".", "'") else told


def _escaped(words: str) -> str:
    told = words.replace("\\", "\\e").replace("-", "\\-")
    return "".join(sign if sign.isascii() else f"\\[u{ord(sign):04X}]" for sign in told)


def _quoted(words: str) -> str:
    """As one argument of a macro."""
    return '"' + _escaped(words.strip()).replace('"', '""') + '"'
