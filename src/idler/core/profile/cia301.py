"""Numbers of CiA 301 that both ends of the wire use: COB-IDs of the services, and why a transfer is aborted."""

from __future__ import annotations

SDO_ANSWER, SDO_REQUEST = 0x580, 0x600  # without the node; seen from the client
SYNC = 0x80  # 7.2.5: whoever maps synchronous process data says it when this is heard

# Abort codes of SDO (7.2.4.3.17) that a controller of this profile gives.
NOT_STORED, NOT_IN_THIS_STATE, BAD_VALUE = 0x08000020, 0x08000022, 0x06090030
TOO_HIGH, TOO_LOW, MEMORY_FAILED = 0x06090031, 0x06090032, 0x06060000
ABORTS = {
    NOT_IN_THIS_STATE: "not while it moves or is in this state",
    TOO_HIGH: "too high",
    TOO_LOW: "too low",
    BAD_VALUE: "not a value that it knows",
    MEMORY_FAILED: "its memory failed",
    0x06020000: "it does not know this object",
    0x06010002: "it can only be read",
}
