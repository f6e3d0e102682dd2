"""The objects of one node: single values, long ones in blocks, and all values at once.

The canopen package encodes and decodes SDO; its queue of responses is replaced by one that reads the bus while it waits,
so that heartbeats go on, STOP goes out and frames are heard in the middle of any transfer.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any, TypeVar

import canopen
from canopen.sdo import SdoAbortedError, SdoCommunicationError

from idler.core.machine import Shape
from idler.core.table import AXIS_LETTERS, MOST_AXES, MOST_INPUTS, MOST_OUTPUTS
from idler.core.wire.codec import Place, Raw
from idler.core.wire.concise import IN_FORCE, VALUES, unpack_values
from idler.core.wire.dictionary import dictionary
from idler.core.wire.objects import entries

from .errors import LinkLost, WriteRefused
from .sdo import Pump, Responses, abort_text

T = TypeVar("T")


class Objects:
    """port: what the sentences call the link. Everything raises LinkLost where nobody answers within `patience` s."""

    def __init__(
        self, network: canopen.Network, port: object, wait: Pump, patience: float, gone: Callable[[], bool]
    ) -> None:
        """gone: whether the node will not answer any more what it was asked."""
        self._gone = gone
        self._network, self._port, self._wait, self._patience = network, port, wait, patience
        self._dictionary = dictionary(entries(Shape(tuple(AXIS_LETTERS[:MOST_AXES]), MOST_INPUTS, MOST_OUTPUTS)), 1)
        self._remote: Any = None

    def attach(self, node: int) -> None:
        """From here on the objects are those of this node."""
        remote = canopen.RemoteNode(node, self._dictionary)
        self._network.add_node(remote)
        remote.sdo.responses = Responses(self._wait, self._gone)
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
            raise WriteRefused(f"{where}: there is no such object in this profile.") from None

    def read(self, where: Place, label: str = "") -> Raw:
        """One object. Raises LinkError with the label and what the controller said."""
        try:
            raw = self._variable(where).raw
        except SdoAbortedError as why:
            raise WriteRefused(f"{label or where}: the controller does not give it ({abort_text(why)}).") from None
        except SdoCommunicationError:
            raise LinkLost(f"{self._port}: the controller did not answer for {label or where}.") from None
        return raw if isinstance(raw, str) else int(raw)

    def write(self, where: Place, raw: Raw, label: str = "") -> None:
        """One object. Raises LinkError with the label and what the controller said."""
        try:
            self._variable(where).raw = raw
        except SdoAbortedError as why:
            raise WriteRefused(f"{label or where}: the controller refused {raw} ({abort_text(why)}).") from None
        except SdoCommunicationError:
            raise LinkLost(f"{self._port}: the controller did not answer for {label or where}.") from None

    def block(self, where: Place, label: str, unpack: Callable[[bytes], T]) -> T:
        """A long object, read as a block (CiA 301, 7.2.4.3.9). Raises LinkLost where it does not come, or comes spoilt."""
        lost = LinkLost(f"{self._port}: the controller did not give its {label}.")
        variable = self._variable(where)
        try:
            with variable.open("rb", block_transfer=True) as block:
                data = block.read()
        except (SdoAbortedError, SdoCommunicationError):
            raise lost from None
        except AttributeError:  # canopen 2.4 stumbles over a name of its own where the end of a block never comes
            raise lost from None
        try:
            return unpack(data)
        except ValueError:
            raise lost from None

    def values(self) -> dict[Place, Raw]:
        """Every value that the controller keeps, of the axes that it has in use. Raises like `block`."""
        return self._values(VALUES)

    def in_force(self) -> dict[Place, Raw]:
        """What is in force instead of each value that waits for a restart. Raises like `block`."""
        return self._values(IN_FORCE)

    def _values(self, place: Place) -> dict[Place, Raw]:
        found = self.block(place, "values", unpack_values)
        return {where: self._decode(where, data) for where, data in found.items()}

    def _decode(self, where: Place, data: bytes) -> Raw:
        raw = self._variable(where).od.decode_raw(data)
        return raw if isinstance(raw, str) else int(raw)

    def try_values(self, values: Mapping[Place, Raw]) -> None:
        """Writes values that are not stored: they last until something else is written, or the controller restarts."""
        for where, raw in values.items():
            self.write(where, raw)
