"""Why a link fails, in plain sentences."""

from __future__ import annotations

from typing import TYPE_CHECKING

from idler.core.errors import About, IdlerError

if TYPE_CHECKING:
    from .events import BusNode


class LinkError(IdlerError):
    """Anything that goes wrong between Idler and a controller."""


class NoSuchPort(LinkError):
    about = About.PORT


class NoPermission(LinkError):
    about = About.PERMISSION


class PortBusy(LinkError):
    about = About.PORT


class NobodyAnswers(LinkError):
    about = About.SILENT


class SeveralAnswer(LinkError):
    """More than one controller is on the bus. nodes: all that answered."""

    about = About.SEVERAL

    def __init__(self, address: str, nodes: tuple[BusNode, ...], wanted: int) -> None:
        self.nodes = nodes
        said = f"node {wanted} does not answer; these do" if wanted else "several answer"
        ways = "Choose one: write ?node= and its number behind the address."
        super().__init__(f"{address}: {said}: {', '.join(map(str, nodes))}. {ways}")


class MadeOfParts(LinkError):
    """Nobody of our own profile is on the bus, and plain parts are. nodes: all that answered. known: which is which, as in an
    address, where these parts were used before; else empty."""

    about = About.PARTS

    def __init__(self, address: str, nodes: tuple[BusNode, ...], known: str) -> None:
        self.nodes, self.known = nodes, known
        example = ",".join(f"{node.number}={letter}" for node, letter in zip(nodes, "XYZ", strict=False))
        super().__init__(
            f"{address}: plain parts answer: {', '.join(map(str, nodes))}. Say which of them is which axis and which are "
            f"terminals; in an address as ?parts={example}."
        )


class LinkLost(LinkError):
    about = About.LOST


class NoAnswer(LinkLost):
    """One request was not answered; the node may be heard all the same."""


class ChangedMeanwhile(LinkError):
    """Somebody else has changed the controller since it was read: what would be sent was planned on something else."""

    about = About.CHANGED

    def __init__(self) -> None:
        super().__init__(
            "The controller was changed by somebody else since it was read. Nothing was sent; look at what it holds now, "
            "then send again."
        )


class Leaving(LinkError):
    """The person wants to disconnect: whatever was under way ends here."""

    def __init__(self) -> None:
        super().__init__("Disconnected meanwhile.")


class NotUnderstood(LinkError):
    """The controller answered with something that is no such value."""

    about = About.STRANGE


class NotAllowedNow(LinkError):
    """The controller is in a state in which this cannot be done."""

    about = About.NOT_NOW


class Overtaken(LinkError):
    """STOP was asked for after this motion was, or the finger that asked for it is gone: it is not begun."""

    about = About.OVERTAKEN


class WriteRefused(LinkError):
    """The controller refused a value (SDO abort), or holds another one after it was written."""

    about = About.UNWRITTEN


class NotStored(WriteRefused):
    """A part took its values and did not store them; it may, without power."""
