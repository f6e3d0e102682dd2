"""Device files of CiA 306-1: the electronic data sheet (EDS) of a controller, and the same with a machine's values (DCF).

Both are read by one reader: a DCF's ParameterValue goes before the DefaultValue that every data sheet has.
"""

from __future__ import annotations

import configparser
from collections import Counter

from ..errors import Refusal
from ..machine import Machine, Shape
from ..profile.codec import DERIVED, LETTERS, Place, Raw, derived, image, machine_from, place
from ..profile.eds import DAY, SECTION, Written, eds_text, whole_number
from ..profile.objects import Entry, entries
from ..values.parameter import WireType
from .imported import Imported, ImportRefusal, left_out

INPUTS, OUTPUTS = Place(0x2000, 3), Place(0x2000, 4)
NODE = 1
_OF_DEVICE = "DeviceComissioning"  # as the standard spells the section that only a DCF has
_LISTS = ("MandatoryObjects", "OptionalObjects", "ManufacturerObjects")


def dcf_text(machine: Machine, *, node: int = NODE, name: str = "machine.dcf", created: Written = DAY) -> str:
    """The DCF of a controller that holds this machine. Values are those of the wire, in its steps."""
    return eds_text(
        entries(machine.shape), title=machine.title, name=name, created=created, values=image(machine), node=node
    )


def read_device_file(text: str) -> Imported:
    """A DCF or EDS of this profile. Raises ImportRefusal."""
    if "\0" in text:
        raise ImportRefusal("the file holds bytes that are no text.")
    parser = configparser.RawConfigParser(delimiters=("=",), comment_prefixes=(";", "#"), strict=True)
    try:
        parser.read_string(text)
    except configparser.DuplicateSectionError as why:
        raise ImportRefusal(f"line {why.lineno}: the section [{why.section[:40]}] stands twice.") from None
    except configparser.DuplicateOptionError as why:
        raise ImportRefusal(f"line {why.lineno}: “{why.option[:40]}” stands twice in [{why.section[:40]}].") from None
    except configparser.Error as why:
        raise ImportRefusal(f"this is no device file ({str(why).splitlines()[0][:80].lower()}).") from None
    _require_whole(parser)
    given = _given(parser)
    shape = _shape(given)
    listed = {entry.place: entry for entry in entries(shape)}
    raws: dict[Place, Raw] = {}
    for where, text_of in given.items():
        entry = listed.get(where)
        if entry is not None and (entry.row is not None or entry.derived):
            raws[where] = _raw(entry, text_of)
    try:
        usual = image(Machine.shaped(shape))
        machine = machine_from({**usual, **raws}, shape)
    except Refusal as why:
        raise ImportRefusal(why.sentence) from None
    if not parser.has_section(_OF_DEVICE):
        return Imported(machine, ("This is a data sheet, which holds no values of a machine: all are the usual ones.",))
    return Imported(machine, tuple(_notes(machine, raws)))


def _require_whole(parser: configparser.RawConfigParser) -> None:
    """Raises ImportRefusal where an object is listed, or a sub-index counted, that the file has not: it was cut off."""
    there = {section.lower() for section in parser.sections()}
    for name in _LISTS:
        for key, index in parser.items(name) if parser.has_section(name) else ():
            number = whole_number(index)
            if key.isdecimal() and number is not None and f"{number:04x}" not in there:
                raise ImportRefusal(f"the file is cut off: object {number:04X}h is listed in it and is not there.")
    subs = Counter(section.partition("sub")[0] for section in there if "sub" in section)
    for section in parser.sections():
        wanted = whole_number(parser[section].get("subnumber", "0"))
        if wanted is not None and (found := subs[section.lower()]) < wanted:
            raise ImportRefusal(f"the file is cut off: object {section}h has {found} of its {wanted} values.")


def _given(parser: configparser.RawConfigParser) -> dict[Place, str]:
    """What the file says of each object, as text."""
    found: dict[Place, str] = {}
    for section in parser.sections():
        name = SECTION.fullmatch(section)
        if name is None:
            continue
        options = parser[section]
        value = options.get("parametervalue") or options.get("defaultvalue")
        if value is not None:
            found[Place(int(name[1], 16), int(name[2] or "0", 16))] = value
    return found


def _shape(given: dict[Place, str]) -> Shape:
    if LETTERS not in given:
        raise ImportRefusal(
            f"the object {LETTERS}, the letters of the axes, is not in the file: it is of another profile."
        )
    counts = []
    for where in (INPUTS, OUTPUTS):
        number = whole_number(given.get(where, "0"))
        if number is None:
            raise ImportRefusal(f"object {where}: “{given[where][:20]}” is no number of terminals.")
        counts.append(number)
    try:
        return Machine(tuple(given[LETTERS].strip()), {}, *counts).shape
    except Refusal as why:
        raise ImportRefusal(why.sentence) from None


def _raw(entry: Entry, text: str) -> Raw:
    if entry.type in (WireType.STRING, WireType.UNICODE):
        return text
    number = whole_number(text)
    if number is None:
        raise ImportRefusal(f"object {entry.place}, {entry.name}: “{text[:20]}” is no whole number.")
    return number


def _notes(machine: Machine, raws: dict[Place, Raw]) -> list[str]:
    """Derived objects that do not follow from the values beside them; the values count."""
    found = []
    for axis in machine.axes:
        for (where, raw), item in zip(derived(axis).items(), DERIVED, strict=True):
            if raws.get(where, raw) != raw:
                found.append(
                    f"{axis.name} {item.label} is {raws[where]} in the file, but follows from the others as {raw}."
                )
    return [*found, *left_out(sum(place(address) not in raws for address in machine.addresses()))]
