"""Numbers of CiA 301 that both ends of the wire use: COB-IDs of the services, and why a transfer is aborted."""

from __future__ import annotations

SDO_ANSWER, SDO_REQUEST = 0x580, 0x600  # without the node; seen from the client
SYNC = 0x80  # 7.2.5: whoever maps synchronous process data says it when this is heard
PDO_SENT, PDO_HEARD, PDO_BETWEEN = 0x180, 0x200, 0x100  # of the first, without the node; seen from the node (7.3.3)
PDO_NOT_VALID = 1 << 31  # bit of its COB-ID (7.5.2.35)

# Abort codes of SDO (7.2.4.3.17) that a controller of this profile gives.
NOT_STORED, NOT_IN_THIS_STATE, BAD_VALUE = 0x08000020, 0x08000022, 0x06090030
TOO_HIGH, TOO_LOW, MEMORY_FAILED = 0x06090031, 0x06090032, 0x06060000
NOT_MAPPABLE, MAPPED_TOO_LONG = 0x06040041, 0x06040042
ABORTS = {
    NOT_IN_THIS_STATE: "not while it moves or is in this state",
    TOO_HIGH: "too high",
    TOO_LOW: "too low",
    BAD_VALUE: "not a value that it knows",
    MEMORY_FAILED: "its memory failed",
    NOT_MAPPABLE: "it cannot be mapped",
    MAPPED_TOO_LONG: "more than a frame holds",
    0x06020000: "it does not know this object",
    0x06010002: "it can only be read",
}
