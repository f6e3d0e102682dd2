"""The machine file: TOML text with units, from and to a Machine. Comments and the writing of untouched values stay.

schema = 3
[names]            groups of the machine's own values
[axis.X.chain]     groups of the values of each axis; axes take their slots in the order of the file
[input.1]          values of each input of the controller, from 1; [output.1] and the spindle's [range.1] likewise
"""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable, Iterator, Mapping
from dataclasses import dataclass
from fractions import Fraction
from functools import lru_cache
from typing import Any, cast

from ..errors import About, IdlerError, Refusal
from ..table import AXIS, INPUT, MACHINE, MOST_INPUTS, MOST_OUTPUTS, MOST_RANGES, OUTPUT, RANGE, TABLE
from ..values.parameter import Kind, Parameter, Scope, Value
from ..values.stage import Stage, stages_text
from . import Address, Machine, filedata, is_rotary
from .filedata import Unreadable
from .filetables import HEADER, path_of, reshaped

SCHEMA = 3
OLDER = (1, 2)  # versions that are read too: machine_of brings them up to date
BARE_TURNS = 2  # the last version in which two bare numbers of a stage were turns, also where they could be teeth
LONGEST_FILE = 1 << 20


class FileRefusal(IdlerError):
    """A machine file that cannot be read; one sentence with the key and the line."""

    about = About.FILE

    def __init__(self, key: str, line: int, why: str) -> None:
        self.key = key
        self.line = line
        where = ", ".join(part for part in (f"line {line}" if line else "", key) if part)
        super().__init__(f"{where}: {why}" if where else why)


@dataclass(frozen=True)
class MachineFile:
    """A machine with the text that it was read from."""

    machine: Machine
    text: str


def glance(text: str) -> tuple[str, tuple[str, ...]]:
    """Title and letters of a machine file, for a list of many: quicker than reading it. Raises FileRefusal."""
    letters = dict.fromkeys(found[1] for found in _AXIS_HEADER.finditer(text))
    title = _TITLE.search(text)
    if letters and title is not None:
        return title[1], tuple(letters)
    machine = read(text).machine
    return machine.title, machine.names


_AXIS_HEADER = re.compile(r"^\[axis\.([A-Z])[.\]]", re.MULTILINE)
_TITLE = re.compile(r'^\[names\]\n(?:[^\[\n].*\n|\n)*?machine = "([^"\\\n]*)"', re.MULTILINE)


@lru_cache(maxsize=16)
def read(text: str) -> MachineFile:
    """Reads a machine file. Raises FileRefusal at the first thing that cannot be taken."""
    if len(text) > LONGEST_FILE:
        raise FileRefusal("", 0, f"the file holds {len(text)} characters; a machine file has at most {LONGEST_FILE}")
    try:
        found = filedata.toml(text, finite=False)
    except Unreadable as why:
        raise FileRefusal("", why.line, why.why) from None
    return MachineFile(machine_of(found, _lines(text)), text)


def machine_of(plain: dict[str, Any], lines: Mapping[tuple[str, ...], int] | None = None) -> Machine:
    """The machine that a parsed file means; `lines` are its line numbers by dotted path. Raises FileRefusal."""
    plain, lines = dict(plain), lines or {}
    schema = plain.pop("schema", None)
    if schema not in (SCHEMA, *OLDER) or isinstance(schema, bool):
        said = "has no schema version" if schema is None else f"has schema version {str(schema)[:20]}"
        raise FileRefusal("schema", lines.get(("schema",), 0), f"the file {said}; this Idler reads version {SCHEMA}.")
    axes = plain.pop("axis", {})
    if schema <= BARE_TURNS:
        axes = _say_turns(axes)
    if not isinstance(axes, dict) or not axes:
        raise FileRefusal("axis", lines.get(("axis",), 0), "the file has no axis. Write at least one [axis.X.chain].")
    names = tuple(str(name) for name in axes)
    numbered = {scope: _numbered(plain.pop(scope.value, {}), scope, lines) for scope in _NUMBERED}
    try:
        machine = Machine(names, {}, len(numbered[Scope.INPUT]), len(numbered[Scope.OUTPUT]))
    except Refusal as why:
        raise FileRefusal("axis", lines.get(("axis", names[-1]), 0), why.sentence) from None
    values: dict[Address, Value] = {}
    _take(values, plain, MACHINE, None, (), machine, lines)
    for slot, (name, groups) in enumerate(axes.items()):
        _take(values, groups, AXIS, slot, ("axis", name), machine, lines)
    for scope, listed in numbered.items():
        for slot, members in enumerate(listed):
            path = (scope.value, str(slot + 1))
            _take(values, {scope.value: members}, TABLE[scope], slot, path, machine, lines)
    if schema == 1:
        _number_outputs(values, len(names))
    return Machine.shaped(machine.shape, values)


def _number_outputs(values: dict[Address, Value], axes: int) -> None:
    """Version 1 had no drive outputs: each axis had the one of its own number."""
    for slot in range(axes):
        values[Address(slot, "axis.output")] = slot + 1


def _say_turns(axes: Any) -> Any:
    """Up to version 2 two bare numbers of a stage were turns, also those that are teeth now."""

    def said(piece: Any) -> Any:
        try:
            return str(Stage.parse(piece, turns=True))
        except (Refusal, TypeError):
            return piece  # told with its line where it is read

    def of(table: Any, key: str, work: Callable[[Any], Any]) -> Any:
        return {**table, key: work(table[key])} if isinstance(table, dict) and key in table else table

    def stages(listed: Any) -> Any:
        return [said(piece) for piece in listed] if isinstance(listed, list) else listed

    if not isinstance(axes, dict):
        return axes
    return {name: of(axis, "chain", lambda chain: of(chain, "stages", stages)) for name, axis in axes.items()}


_NUMBERED = {Scope.INPUT: MOST_INPUTS, Scope.OUTPUT: MOST_OUTPUTS, Scope.RANGE: MOST_RANGES}


def _numbered(tables: Any, scope: Scope, lines: Mapping[tuple[str, ...], int]) -> list[Any]:
    """The tables [input.1], [input.2], … in the order of their numbers, which run from 1 without a gap."""
    if not isinstance(tables, dict):
        raise FileRefusal(scope.value, _line(lines, (scope.value,)), "is not a table.")
    for name in tables:
        if not (
            name.isascii()
            and name.isdecimal()
            and 1 <= int(name[:4]) <= min(len(tables), _NUMBERED[scope])
            and str(int(name)) == name
        ):
            why = f"is not the number of an {scope.value}. They are numbered from 1 without a gap, up to {_NUMBERED[scope]}."
            raise FileRefusal(f"{scope.value}.{name}", _line(lines, (scope.value, name)), why)
    return [tables[str(number)] for number in range(1, len(tables) + 1)]


def _take(
    values: dict[Address, Value],
    groups: Any,
    rows: Mapping[str, Parameter],
    slot: int | None,
    path: tuple[str, ...],
    machine: Machine,
    lines: Mapping[tuple[str, ...], int],
) -> None:
    if not isinstance(groups, dict):
        raise FileRefusal(".".join(path), lines.get(path, 0), "is not a table.")
    rotary = False
    kind = groups.get("axis") if rows is AXIS else None
    if isinstance(kind, dict):
        rotary = is_rotary(str(kind.get("kind", "linear")))
    for group, members in groups.items():
        inside = path if rows in (INPUT, OUTPUT, RANGE) else (*path, group)
        if not isinstance(members, dict):
            raise FileRefusal(".".join(inside), _line(lines, inside), _unknown(group, _groups(rows)))
        for name, item in members.items():
            here = (*inside, name)
            row = rows.get(f"{group}.{name}")
            if row is None:
                known = [r.name for r in rows.values() if r.group == group]
                why = _unknown(name, known) if known else _unknown(group, _groups(rows))
                raise FileRefusal(".".join(here), _line(lines, here), why)
            address = Address(slot, row.key)
            try:
                values[address] = _value(row, item, rotary, machine.part(address))
            except Refusal as why:
                raise FileRefusal(".".join(here), _line(lines, here), why.sentence) from None


def _value(row: Parameter, item: Any, rotary: bool, part: str) -> Value:
    """Numbers without unit are taken only where the row has none; booleans only for flags; lists only for stages."""
    if row.kind is Kind.FLAG and isinstance(item, bool):
        return item
    if row.kind is Kind.STAGES and isinstance(item, list):
        return row.read("; ".join(str(piece) for piece in item), part=part)
    if row.kind is Kind.WHOLE and isinstance(item, int) and not isinstance(item, bool):
        value = int(item)
        row.check(value, part=part)
        return value
    if isinstance(item, str) and row.kind is not Kind.FLAG:
        bare = item.strip().lstrip("+-−").replace(".", "").isdigit()
        if row.kind is Kind.QUANTITY and row.unit(rotary).symbol and bare:
            raise _without_unit(row, item, rotary, part)
        return row.read(item, rotary=rotary, part=part)
    if row.kind is Kind.QUANTITY and isinstance(item, int | float) and not isinstance(item, bool):
        if item != item or item in (float("inf"), float("-inf")):
            raise Refusal(part, str(item), "is not a finite number")
        raise _without_unit(row, str(item), rotary, part)
    raise Refusal(part, str(item)[:40], f"is not {row.kind.value}", way_out=f"write for example {_sample(row, rotary)}")


def _without_unit(row: Parameter, text: str, rotary: bool, part: str) -> Refusal:
    symbol = row.unit(rotary).symbol
    return Refusal(part, text, "has no unit", way_out=f'write the unit behind it, for example "{text} {symbol}"')


def _sample(row: Parameter, rotary: bool) -> str:
    return _toml_text(row, row.default, rotary)


def _toml_text(row: Parameter, value: Value, rotary: bool) -> str:
    plain = _plain(row, value, rotary)
    match plain:
        case bool():
            return str(plain).lower()
        case int():
            return str(plain)
        case str() if plain.isprintable() and not set(plain) & {'"', "\\"}:  # nothing in it is to be escaped
            return f'"{plain}"'
    import tomlkit  # only where it is needed: it takes its time

    return str(tomlkit.item(plain).as_string())


def _plain(row: Parameter, value: Value, rotary: bool) -> Any:
    match row.kind:
        case Kind.FLAG | Kind.WHOLE:
            return value
        case Kind.STAGES:
            return [part for part in stages_text(cast("tuple[Any, ...]", value)).split("; ") if part]
    return row.write(value, rotary=rotary)


def _groups(rows: Mapping[str, Parameter]) -> list[str]:
    return list(dict.fromkeys(row.group for row in rows.values()))


def _unknown(name: str, known: Iterable[str]) -> str:
    import difflib

    names = list(known)
    near = difflib.get_close_matches(name, names, 1)
    hint = f"Did you mean {near[0]}?" if near else f"Known here: {', '.join(names)}."
    return f"is not known to Idler. {hint}"


def _line(lines: Mapping[tuple[str, ...], int], path: tuple[str, ...]) -> int:
    """The line of a key, or of the nearest table above it."""
    while path:
        if path in lines:
            return lines[path]
        path = path[:-1]
    return 0


_KEY = re.compile(r"^\s*([A-Za-z0-9_\-.\"' ]+?)\s*=")


def _lines(text: str) -> dict[tuple[str, ...], int]:
    """Line numbers by dotted path, read beside the parser, which does not keep them."""
    found: dict[tuple[str, ...], int] = {}
    table: tuple[str, ...] = ()
    for number, line in enumerate(text.splitlines(), start=1):
        if header := HEADER.match(line):
            table = path_of(header[1])
            for depth in range(1, len(table) + 1):
                found.setdefault(table[:depth], number)
        elif key := _KEY.match(line):
            found.setdefault((*table, *path_of(key[1])), number)
    return found


def write(machine: Machine, template: str = "") -> str:
    """The text of a machine. With a template, only values that differ from it are written anew; comments stay, also
    where the template is of an older version or of another shape."""
    try:
        if template:
            made = _patch(reshaped(template, read(template).machine.shape, machine.shape), machine)
            if read(made).machine == machine:
                return made
    except FileRefusal:
        pass  # a template that cannot be read keeps nothing
    return _fresh(machine)


def _patch(text: str, machine: Machine) -> str:
    """Raises FileRefusal where the text is no machine file."""
    import tomlkit
    from tomlkit.items import Table

    document = tomlkit.parse(text)
    if document.get("schema") != SCHEMA:
        document["schema"] = SCHEMA
        text = tomlkit.dumps(document)
    for address in _to_write(read(text).machine, machine):
        row, holder = address.row, cast(Table, document)
        for name in _table_path(machine, address):
            if name not in holder:
                holder.add(name, tomlkit.table())
            holder = cast(Table, holder[name])
        holder[row.name] = _plain(row, machine[address], machine.is_rotary(address))
    return tomlkit.dumps(document)


def _to_write(before: Machine, machine: Machine) -> Iterator[Address]:
    """What differs, and on an axis that turned rotary or linear whatever has another unit now."""
    for address in machine.addresses():
        unit_changed = before.is_rotary(address) != machine.is_rotary(address) and (
            address.row.unit(True) != address.row.unit(False)
        )
        if unit_changed or before[address] != machine[address]:
            yield address


def _table_path(machine: Machine, address: Address) -> tuple[str, ...]:
    """The table of the file in which a value stands."""
    row = address.row
    if address.slot is None:
        return (row.group,)
    if row.scope is Scope.AXIS:
        return ("axis", machine.names[address.slot], row.group)
    return (row.group, str(address.slot + 1))


def plain_of(machine: Machine) -> dict[str, Any]:
    """The machine as the tables of its file, every value written out."""
    out: dict[str, Any] = {"schema": SCHEMA}
    for address in machine.addresses():
        holder = out
        for name in _table_path(machine, address):
            holder = holder.setdefault(name, {})
        holder[address.row.name] = _plain(address.row, machine[address], machine.is_rotary(address))
    return out


def _fresh(machine: Machine) -> str:
    out = [f"schema = {SCHEMA}"]
    here: tuple[str, ...] = ()
    for address in machine.addresses():
        path = _table_path(machine, address)
        if path != here:
            out += ["", f"[{'.'.join(path)}]"]
            here = path
        row = address.row
        out.append(f"{row.name} = {_toml_text(row, machine[address], machine.is_rotary(address))}")
    return "\n".join([*out, ""])


def schema() -> dict[str, Any]:
    """The JSON Schema (draft 2020-12) of a machine file, made from the table."""

    def group_schema(rows: Mapping[str, Parameter]) -> dict[str, Any]:
        return {
            group: {
                "type": "object",
                "additionalProperties": False,
                "properties": {row.name: _row_schema(row) for row in rows.values() if row.group == group},
            }
            for group in _groups(rows)
        }

    axis = {"type": "object", "additionalProperties": False, "properties": group_schema(AXIS)}
    numbered = {
        scope.value: {"type": "object", "maxProperties": most, "additionalProperties": False,
                      "patternProperties": {"^[1-9][0-9]?$": group_schema(TABLE[scope])[scope.value]}}
        for scope, most in _NUMBERED.items()
    }  # fmt: skip
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "title": "Idler machine file",
        "type": "object",
        "required": ["schema", "axis"],
        "additionalProperties": False,
        "properties": {
            "schema": {"const": SCHEMA},
            **group_schema(MACHINE),
            **numbered,
            "axis": {"type": "object", "minProperties": 1, "additionalProperties": False,
                     "patternProperties": {"^[XYZABCUVW]$": axis}},
        },
    }  # fmt: skip


def _row_schema(row: Parameter) -> dict[str, Any]:
    base: dict[str, Any] = {"title": row.label, "description": row.what}
    match row.kind:
        case Kind.FLAG:
            return {**base, "type": "boolean", "default": row.default}
        case Kind.WHOLE:
            return {
                **base,
                "type": "integer",
                "minimum": int(row.low),
                "maximum": int(row.high),
                "default": row.default,
            }
        case Kind.CHOICE:
            return {**base, "enum": [choice.key for choice in row.choices], "default": row.default}
        case Kind.STAGES:
            return {**base, "type": "array", "items": {"type": "string"}, "default": []}
        case Kind.TEXT:
            return {**base, "type": "string", "minLength": 1, "maxLength": int(row.high)}
    assert isinstance(row.default, Fraction)
    unit = r".* *[^0-9 ]" if row.unit().symbol else ""
    return {**base, "type": "string", "pattern": f"^[-+−]?[0-9]{unit}", "default": row.write(row.default)}
