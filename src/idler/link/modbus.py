"""A spindle's drive on Modbus: a thread of its own tells it way and speed, keeps telling it, and reads what it says.

The drive is to stop by itself when nobody speaks to it; the enable terminal, which the controller switches, ends it anyway.
"""

from __future__ import annotations

import contextlib
import threading
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from idler.core.spindle.registers import Register, Registers

PERIOD = 0.1  # s between two words to the drive
RETRY = 1.0
ANSWER = 1.0


@dataclass(frozen=True)
class DriveState:
    """rpm of the motor, with its sign, as the drive says it; fault: its number, 0 where there is none.

    why: a sentence where it does not answer.
    """

    answers: bool = False
    rpm: float = 0.0
    fault: int = 0
    why: str = ""


class BusDrive:
    """Methods may be called from any thread; `tell` is called on its own with each new DriveState."""

    def __init__(self, found: Registers, tell: Callable[[DriveState], None]) -> None:
        self.registers = found
        self._tell = tell
        self._wanted: tuple[int, float] = (0, 0.0)
        self._reset = False
        self._ends = False
        self._wake = threading.Event()
        self.state = DriveState()
        self._thread = threading.Thread(target=self._run, name="modbus", daemon=True)
        self._thread.start()

    def command(self, way: int, rpm: float) -> None:
        """Turns the motor right (1), left (-1) or not at all (0), at so many rpm; said at once, and again and again."""
        self._wanted = way, rpm
        self._wake.set()

    def reset(self) -> None:
        """Clears a fault, where the description names the register."""
        self._reset = True
        self._wake.set()

    def leave(self) -> None:
        """The motor is stopped and the port let go of, on the drive's own thread; this returns at once."""
        self._ends = True
        self._wake.set()

    def close(self) -> None:
        """Leaves, and waits until it is done: a drive that does not answer takes its time."""
        self.leave()
        self._thread.join()

    # -- on its own thread ----------------------------------------------------------------------------------------

    def _client(self) -> Any:
        from pymodbus.client import ModbusSerialClient, ModbusTcpClient

        port = self.registers.port
        if port.startswith("tcp://"):
            host, _, number = port.removeprefix("tcp://").rpartition(":")
            return ModbusTcpClient(host, port=int(number), timeout=ANSWER, retries=1)
        parity = self.registers.parity[0].upper()
        return ModbusSerialClient(port, baudrate=self.registers.rate, parity=parity, timeout=ANSWER, retries=1)

    def _run(self) -> None:
        from pymodbus.exceptions import ModbusException

        while not self._ends:
            client = self._client()
            try:
                if not client.connect():
                    raise ConnectionError("the port cannot be opened")
                last = False
                while not last:
                    last = self._ends  # a stop is still said to it
                    self._round(client)
                    self._wake.wait(0.0 if last else PERIOD)
                    self._wake.clear()
            except (ModbusException, OSError, ConnectionError) as why:
                self._say(DriveState(why=f"{self.registers.port}: the drive does not answer ({_short(why)})."))
                self._wake.wait(RETRY)
                self._wake.clear()
            finally:
                with contextlib.suppress(Exception):
                    client.close()

    def _round(self, client: Any) -> None:
        registers = self.registers.registers
        way, rpm = (0, 0.0) if self._ends else self._wanted
        key = {1: "right", -1: "left"}.get(way, "stop")
        if way:
            self._write(client, registers["speed"], registers["speed"].raw(abs(rpm)))
        self._write(client, registers["run"], registers["run"].values[key])
        if self._reset and "reset" in registers:
            self._write(client, registers["reset"], registers["reset"].values["value"])
        self._reset = False
        speed = fault = 0
        if "measured" in registers:
            speed = self._read(client, registers["measured"])
        if "fault" in registers:
            fault = self._read(client, registers["fault"])
        step = registers["measured"].rpm if "measured" in registers else 0.0
        self._say(DriveState(True, speed * step, fault))

    def _write(self, client: Any, register: Register, raw: int) -> None:
        words = register.to_words(raw)
        unit = self.registers.unit
        if len(words) == 1:
            answer = client.write_register(register.number, words[0], device_id=unit)
        else:
            answer = client.write_registers(register.number, words, device_id=unit)
        self._judge(answer, register)

    def _read(self, client: Any, register: Register) -> int:
        ask = client.read_input_registers if register.table == "input" else client.read_holding_registers
        answer = ask(register.number, count=register.words, device_id=self.registers.unit)
        self._judge(answer, register)
        return register.from_words(list(answer.registers))

    def _judge(self, answer: Any, register: Register) -> None:
        if answer.isError():
            code = getattr(answer, "exception_code", 0)
            known = {
                1: "it does not know this function",
                2: "it has no such register",
                3: "it does not take this value",
            }
            raise ConnectionError(f"register {register.number:04X}h: {known.get(code, f'exception {code}')}")

    def _say(self, state: DriveState) -> None:
        if state != self.state:
            self.state = state
            self._tell(state)


def _short(why: Exception) -> str:
    text = str(why).strip().removeprefix("Modbus Error: ").rstrip(".")
    return text[:120] or type(why).__name__
