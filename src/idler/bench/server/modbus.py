"""The rig's spindle drive on Modbus, over TCP or as RTU on a serial line. Registers count from 0; all in motor terms.

holding 1000h  0 stop, 1 right, 2 left        holding 1001h  speed asked for, 0.1 Hz (10 Hz are 600 rpm)
input   2000h  speed now, 1 rpm, signed       input   2001h  fault, 0: none (2: it was tripped)
holding 1002h  1 clears a fault
It stops when it was not spoken to for a second. The protocol is the pymodbus package's.
"""

from __future__ import annotations

import struct
from collections.abc import Callable
from typing import Any

from pymodbus.exceptions import ModbusException
from pymodbus.framer import FramerRTU, FramerSocket
from pymodbus.pdu import DecodePDU, ExceptionResponse
from pymodbus.pdu.register_message import (
    ReadHoldingRegistersRequest,
    ReadHoldingRegistersResponse,
    ReadInputRegistersRequest,
    ReadInputRegistersResponse,
    WriteSingleRegisterRequest,
    WriteSingleRegisterResponse,
)

from ..state import TICK
from ..world import World

RUN, SPEED, RESET, SPEED_NOW, FAULT = 0x1000, 0x1001, 0x1002, 0x2000, 0x2001
_RPM_PER_STEP = 6.0  # 0.1 Hz of a motor with one pair of poles
_PATIENCE = round(1.0 / TICK)
_NO_REGISTER, _NO_FUNCTION, _NO_VALUE = 2, 1, 3
_TRIPPED = 2


class DriveBus:
    """Takes bytes of one client, gives those of the answers."""

    def __init__(self, world: World, pace: Callable[[], float] = lambda: 1.0, *, rtu: bool = False) -> None:
        """pace: of the rig's clock; whoever speaks to the drive has the one on the wall."""
        self._world, self._pace = world, pace
        self._framer = (FramerRTU if rtu else FramerSocket)(DecodePDU(True))
        self._in = b""

    def take(self, data: bytes) -> bytes:
        """Answers every whole request; what is not one empties the line."""
        self._in += data
        out = b""
        while self._in:
            try:
                used, request = self._framer.handleFrame(self._in, 0, 0)
            except (ModbusException, struct.error, ValueError, IndexError):  # the package lets more out than its own
                self._in = b""
                break
            self._in = self._in[used:]
            if request is None:
                break
            answer = self._answer(request)
            answer.dev_id, answer.transaction_id = request.dev_id, request.transaction_id
            out += self._framer.buildFrame(answer)
        return out

    def _answer(self, request: Any) -> Any:
        self._world.spindle["bus_left"] = round(_PATIENCE * max(1.0, self._pace()))
        code = 0
        if isinstance(request, WriteSingleRegisterRequest):
            code = self._write(request.address, request.registers[0])
            if not code:
                return WriteSingleRegisterResponse(address=request.address, registers=request.registers)
        elif isinstance(request, ReadHoldingRegistersRequest | ReadInputRegistersRequest):
            inputs = isinstance(request, ReadInputRegistersRequest)
            kept = self._inputs() if inputs else self._holding()
            wanted = range(request.address, request.address + request.count)
            if all(number in kept for number in wanted):
                answer = ReadInputRegistersResponse if inputs else ReadHoldingRegistersResponse
                return answer(registers=[kept[number] for number in wanted])
            code = _NO_REGISTER
        return ExceptionResponse(request.function_code, code or _NO_FUNCTION)

    def _holding(self) -> dict[int, int]:
        spindle = self._world.spindle
        way = {0: 0, 1: 1, -1: 2}[int(spindle["bus_run"])]
        return {RUN: way, SPEED: round(float(spindle["bus_level"] * spindle["top"]) / _RPM_PER_STEP), RESET: 0}

    def _inputs(self) -> dict[int, int]:
        spindle = self._world.spindle
        return {SPEED_NOW: round(float(spindle["motor"])) & 0xFFFF, FAULT: 0 if spindle["ready"] else _TRIPPED}

    def _write(self, number: int, raw: int) -> int:
        spindle = self._world.spindle
        if number == RUN:
            if raw not in (0, 1, 2):
                return _NO_VALUE
            spindle["bus_run"] = (0, 1, -1)[raw]
        elif number == SPEED:
            if raw * _RPM_PER_STEP > spindle["top"]:
                return _NO_VALUE
            spindle["bus_level"] = raw * _RPM_PER_STEP / spindle["top"]
        elif number == RESET:
            spindle["ready"] = 1
        else:
            return _NO_REGISTER
        return 0
