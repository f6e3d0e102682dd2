"""A flight record as a table, for other programs."""

from __future__ import annotations

from ..incident.happenings import at_sample
from ..machine import Machine
from ..profile.flight import FlightRecord
from ..table import POSITION_STEP, SPEED_STEP


def flight_csv(machine: Machine, record: FlightRecord) -> str:
    """The record as a table: seconds from the stop, terminals as hexadecimal words, then of each axis its figures."""
    names = machine.names[: record.axes]
    heads = ["time [s]", "inputs closed", "outputs energised", "conditions", "spindle [rpm]"]
    for slot, name in enumerate(names):
        unit = machine.axis(slot).unit
        heads += [
            f"{name} position [{unit}]",
            f"{name} velocity [{unit}/min]",
            f"{name} behind [{unit}]",
            f"{name} flags",
        ]
    lines = [",".join(heads)]
    for k, sample in enumerate(record.samples):
        row = [f"{at_sample(record, k):.3f}", f"{sample['closed']:X}", f"{sample['energised']:X}", f"{sample['conditions']:X}",
               str(sample["spindle"])]  # fmt: skip
        for slot in range(len(names)):
            row += [f"{sample['position'][slot] * float(POSITION_STEP):.4f}",
                    f"{sample['velocity'][slot] * float(SPEED_STEP):.3f}", f"{sample['lag'][slot] / 1000:.3f}",
                    f"{sample['flags'][slot]:02X}"]  # fmt: skip
        lines.append(",".join(row))
    return "\n".join(lines) + "\n"
