"""The objects of one node: single values, long ones in blocks, and all values at once.

The canopen package encodes and decodes SDO; its queue of responses is replaced by one that reads the bus while it waits,
so that heartbeats go on, STOP goes out and frames are heard in the middle of any transfer.
"""

from __future__ import annotations

import struct
import time
from collections.abc import Callable, Iterable, Iterator, Mapping
from contextlib import contextmanager
from functools import cache
from typing import Any, TypeVar

import canopen

from idler.core.machine import Shape
from idler.core.profile.codec import Place, Raw
from idler.core.profile.concise import IN_FORCE, VALUES, unpack_values
from idler.core.profile.dictionary import dictionary
from idler.core.profile.objects import entries
from idler.core.table import AXIS_LETTERS, MOST_AXES, MOST_INPUTS, MOST_OUTPUTS

from ..bus.sdo import BETWEEN_TRIES, LATELY, MOST_BYTES, TRIES, Pump, Responses, soon, transfer
from ..errors import NoAnswer, NotUnderstood, WriteRefused

T = TypeVar("T")
MOST_OF_ONE = 16_384  # bytes of a single value


def always() -> bool:
    """What says how something is may be said twice."""
    return True


@cache
def _everything() -> tuple[Any, frozenset[Place], frozenset[Place]]:
    """The dictionary of the largest controller, which nothing here writes to; the places that it stores, and those of which a
    change waits for a restart."""
    listed = entries(Shape(tuple(AXIS_LETTERS[:MOST_AXES]), MOST_INPUTS, MOST_OUTPUTS))
    stored = frozenset(entry.place for entry in listed if entry.stored)
    return dictionary(listed, 1), stored, frozenset(entry.place for entry in listed if entry.restart)


class Objects:
    """port: what the sentences call the link. Everything raises LinkLost where nobody answers within `patience` s."""

    def __init__(
        self, network: canopen.Network, port: object, wait: Pump, patience: float, gone: Callable[[], bool]
    ) -> None:
        """gone: whether the node will not answer any more what it was asked."""
        self._gone = gone
        self._network, self._port, self._wait, self._patience = network, port, wait, patience
        self._dictionary, self._stored, self._restart = _everything()
        self.written = 0  # values of the table that the controller took from Idler
        self.unheard = 0  # of these, writings of which nobody knows whether it took them: they were made again
        self._takes = 0.0  # s that its last answers took
        self._remote: Any = None
        self._responses = Responses(wait, gone)

    def attach(self, node: int) -> None:
        """From here on the objects are those of this node."""
        remote = canopen.RemoteNode(node, self._dictionary)
        self._network.add_node(remote)
        self._responses = Responses(self._wait, self._gone)
        remote.sdo.responses = self._responses
        remote.sdo.RESPONSE_TIMEOUT = self._patience
        remote.sdo.MAX_RETRIES = 1
        self._remote = remote

    @property
    def attached(self) -> bool:
        return self._remote is not None

    def _variable(self, where: Place) -> Any:
        try:
            found = self._remote.sdo[where.index]
            return found if isinstance(found, canopen.sdo.SdoVariable) else found[where.sub]
        except KeyError:
            raise _no_object(where) from None

    @contextmanager
    def _asked(
        self, label: str, refusal: str = "does not give it", *, where: Place | None = None, most: int = MOST_BYTES
    ) -> Iterator[None]:
        """One transfer. Whatever becomes of it other than an answer is LinkLost, WriteRefused or NotUnderstood."""
        asked = b"" if where is None else struct.pack("<HB", where.index, where.sub)
        begun = time.monotonic()
        with transfer(self._responses, self._port, "the controller", label, refusal, asked=asked, most=most):
            yield
        if where is not None:
            self._takes += (time.monotonic() - begun - self._takes) * (LATELY if self._takes else 1.0)

    def read(self, where: Place, label: str = "") -> Raw:
        """One object. Raises LinkError with the label and what the controller said."""
        return self._again(lambda: self._read(where, label or str(where)))

    def _read(self, where: Place, label: str) -> Raw:
        variable = self._variable(where)
        with self._asked(label, where=where, most=MOST_OF_ONE):
            raw = variable.raw
            return raw if isinstance(raw, str) else int(raw)

    def read_if_there(self, where: Place, otherwise: Raw) -> Raw:
        """One object that a controller need not have. Raises LinkLost."""
        try:
            return self.read(where)
        except (WriteRefused, NotUnderstood):
            return otherwise

    def write(self, where: Place, raw: Raw, label: str = "", *, again: Callable[[], bool] | None = None) -> None:
        """One object. again: whether it may be said once more now, where no answer came; None: it is said once. Raises
        LinkError with the label and what the controller said."""
        variable, stored = self._variable(where), where in self._stored

        def tell() -> None:
            try:
                with self._asked(label or str(where), f"refused {raw}", where=where):
                    variable.raw = raw
            except NoAnswer:
                self.unheard += stored
                raise

        if again is not None:
            self._again(tell, again)
        else:
            tell()
        self.written += stored

    def block(self, where: Place, label: str, unpack: Callable[[bytes], T]) -> T:
        """A long object, read as a block (CiA 301, 7.2.4.3.9). Raises LinkError where it does not come, or comes spoilt."""
        return self._again(lambda: self._block(where, label, unpack))

    def short(self, where: Place, label: str, unpack: Callable[[bytes], T]) -> T:
        """A short object that is no number. Raises LinkError."""

        def ask() -> T:
            variable = self._variable(where)
            with self._asked(label, where=where, most=MOST_OF_ONE):
                return unpack(bytes(variable.raw))

        return self._again(ask)

    def write_block(self, where: Place, data: bytes, label: str) -> None:
        """A long object, written as a block (CiA 301, 7.2.4.3.5). Raises LinkError with the label and what the controller
        said."""
        variable = self._variable(where)
        with (
            self._asked(label, "refused it"),
            variable.open("wb", size=len(data), block_transfer=True) as block,
        ):
            block.write(data)

    def _again(self, ask: Callable[[], T], may: Callable[[], bool] = always) -> T:
        """What is asked for, once more where it was lost, and the last time with all patience; another computer may have asked
        the same node in between."""
        for number in range(1, TRIES):
            self._remote.sdo.RESPONSE_TIMEOUT = soon(self._takes, self._patience)
            try:
                return ask()
            except NoAnswer:
                if self._gone():  # what has started anew is told nothing more
                    raise
                self._wait(number * BETWEEN_TRIES)
                if not may():
                    raise
            finally:
                self._remote.sdo.RESPONSE_TIMEOUT = self._patience
        return ask()

    def _block(self, where: Place, label: str, unpack: Callable[[bytes], T]) -> T:
        variable = self._variable(where)
        with self._asked(label), variable.open("rb", block_transfer=True) as block:
            data = block.read()
        with self._asked(label):
            return unpack(data)

    def values(self) -> dict[Place, Raw]:
        """Every value that the controller keeps, of the axes that it has in use. Raises like `block`."""
        return self._values(VALUES)

    def wait_for_restart(self, places: Iterable[Place]) -> bool:
        """Whether one of these values only comes into force at a restart."""
        return not self._restart.isdisjoint(places)

    def in_force(self) -> dict[Place, Raw]:
        """What is in force instead of each value that waits for a restart. Raises like `block`."""
        return self._values(IN_FORCE)

    def _values(self, place: Place) -> dict[Place, Raw]:
        found = self.block(place, "values", unpack_values)
        return {where: self._decode(where, data) for where, data in found.items()}

    def _decode(self, where: Place, data: bytes) -> Raw:
        variable = self._dictionary.get_variable(where.index, where.sub)
        if variable is None:
            raise _no_object(where)
        try:
            raw = variable.decode_raw(data)
            return raw if isinstance(raw, str) else int(raw)
        except Exception:
            with self._asked(str(where)):  # which makes a sentence of it
                raise

    def try_values(self, values: Mapping[Place, Raw]) -> None:
        """Writes values that are not stored: they last until something else is written, or the controller restarts."""
        for where, raw in values.items():
            self.write(where, raw, again=always)


def _no_object(where: Place) -> WriteRefused:
    return WriteRefused(f"{where}: there is no such object in this profile.")
