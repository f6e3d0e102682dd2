"""CSV (RFC 4180): one line for each value, by its key, with the value and its unit as a field would take it."""

from __future__ import annotations

import csv
import io
import re
from collections.abc import Iterable

from ..errors import Refusal
from ..machine import Address, Machine
from ..machine.changes import address_from, address_text
from ..values.parameter import Value
from .imported import Imported, ImportRefusal, not_given

HEAD = ("key", "value", "what it is")
_SHAPE = ("axes", "inputs", "outputs")
_SEPARATOR = re.compile(r"\ufeff?\"?sep=(.)\"?[,;\t]*", re.IGNORECASE)
_COMMA, _POINT = re.compile(r"(?<=\d),(?=\d)"), re.compile(r"(?<=\d)\.(?=\d)")


def csv_text(machine: Machine) -> str:
    out = io.StringIO()
    lines = csv.writer(out, lineterminator="\r\n")
    lines.writerow(HEAD)
    lines.writerow(("axes", "".join(machine.names), "letters of the axes in their order"))
    lines.writerow(("inputs", machine.inputs, "inputs of the controller"))
    lines.writerow(("outputs", machine.outputs, "outputs of the controller"))
    for address in machine.addresses():
        value = address.row.write(machine[address], rotary=machine.is_rotary(address))
        lines.writerow((address_text(machine, address), value, machine.part(address)))
    return out.getvalue()


def read_csv(text: str) -> Imported:
    """Commas, semicolons or tabs between the columns, by the first line or a line “sep=” before it, and any line ends.
    Rows without a word are passed over. Raises ImportRefusal."""
    lines = text.replace("\r\n", "\n").replace("\r", "\n").split("\n")
    said = _SEPARATOR.fullmatch(lines[0])
    skipped = 1 if said else 0
    delimiter = said[1] if said else max(",;\t", key=lines[0].count)
    try:
        reader = csv.reader(io.StringIO("\n".join(lines[skipped:])), delimiter=delimiter, strict=True)
        rows = [(n, row) for n, row in enumerate(reader, 1 + skipped) if any(cell.strip() for cell in row)]
    except csv.Error as why:
        raise ImportRefusal(f"this is not CSV ({why}).") from None
    if not rows or [cell.strip().lower() for cell in rows[0][1][:2]] != list(HEAD[:2]):
        raise ImportRefusal(f"line {1 + skipped}: the columns must begin with “{HEAD[0]}” and “{HEAD[1]}”.")
    cells: dict[str, tuple[int, str]] = {}
    for number, row in rows[1:]:
        key = row[0].strip()
        if len(row) < 2:
            raise ImportRefusal(f"line {number}, {key[:40]}: has no value beside it.")
        if key in cells:
            raise ImportRefusal(f"line {number}, {key[:40]}: stands twice; the first is in line {cells[key][0]}.")
        cells[key] = number, row[1]
    if delimiter != "," and _decimal_commas(value for _, value in cells.values()):
        cells = {key: (number, _COMMA.sub(".", value)) for key, (number, value) in cells.items()}
    return Imported(*_machine(cells))


def _decimal_commas(values: Iterable[str]) -> bool:
    """Whether the numbers of a table have commas before their decimals: some have, and none has a point."""
    found = list(values)
    return any(map(_COMMA.search, found)) and not any(map(_POINT.search, found))


def _machine(cells: dict[str, tuple[int, str]]) -> tuple[Machine, tuple[str, ...]]:
    missing = [name for name in _SHAPE if name not in cells]
    if missing:
        raise ImportRefusal(f"there is no line “{missing[0]}”: which parts the machine has cannot be known.")
    letters, inputs, outputs = (cells.pop(name) for name in _SHAPE)
    try:
        machine = Machine(tuple(letters[1].strip()), {}, _count(*inputs), _count(*outputs))
    except Refusal as why:
        raise ImportRefusal(f"line {letters[0]}, axes: {why.sentence}") from None
    kinds = {key: cell for key, cell in cells.items() if key.endswith(".axis.kind")}
    machine = machine.with_values(_values(machine, kinds))  # they say which values are angles
    found = _values(machine, cells)
    made = Machine.shaped(machine.shape).with_values(found)
    return made, not_given(made)


def _values(machine: Machine, cells: dict[str, tuple[int, str]]) -> dict[Address, Value]:
    found: dict[Address, Value] = {}
    for key, (number, text) in cells.items():
        address = address_from(machine, key)
        if address is None:
            raise ImportRefusal(f"line {number}, {key[:40]}: this machine has no such value.")
        try:
            found[address] = address.row.read(text, rotary=machine.is_rotary(address), part=machine.part(address))
        except Refusal as why:
            raise ImportRefusal(f"line {number}, {why.sentence}") from None
    return found


def _count(line: int, text: str) -> int:
    if not text.strip().isdecimal() or len(text.strip()) > 3:
        raise ImportRefusal(f"line {line}: “{text[:20]}” is no number of terminals.")
    return int(text)
