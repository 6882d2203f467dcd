"""A bus on the wire, by any interface that python-can knows: frames as they come."""

from __future__ import annotations

import logging
import re
import socket
import time
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass

import can

from ..core.base.errors import PondrelError

__all__ = ["INTERFACES", "Interface", "interface_from", "messages_from"]

# By python-can's names: what is asked for besides the channel.
INTERFACES: Mapping[str, tuple[str, ...]] = {
    "socketcan": (), "socketcand": ("host", "port"), "slcan": ("bitrate",), "gs_usb": ("bitrate",), "serial": ("bitrate",),
    "udp_multicast": (), "virtual": (),
}  # fmt: skip
_LONGEST_WAIT_S = 0.1
logging.getLogger("can").addHandler(logging.NullHandler())


@dataclass(frozen=True, slots=True)
class Interface:
    """How a bus is reached: python-can's name of the interface, the channel, and what else it wants (0 and empty where it does not)."""

    name: str
    channel: str
    bit_rate: int = 0
    host: str = ""
    port: int = 0

    def opened(self) -> can.BusABC:
        """The bus. Raises PondrelError with one sentence where it cannot be reached."""
        more: dict[str, object] = {}
        wanted = INTERFACES.get(self.name)
        if wanted is None:
            raise PondrelError(f"'{self.name}' is no interface that is known here: {', '.join(INTERFACES)}.")
        if "bitrate" in wanted and self.bit_rate:
            more["bitrate"] = self.bit_rate
        if "host" in wanted:
            more |= {"host": self.host or "127.0.0.1", "port": self.port}
            _reachable(self.host or "127.0.0.1", self.port)
        try:
            return can.Bus(interface=self.name, channel=self.channel, ignore_config=True, **more)  # type: ignore[arg-type]
        except Exception as error:  # each driver raises what it likes
            said = str(error).strip().splitlines()[0][:160] if str(error).strip() else type(error).__name__
            raise PondrelError(f"The bus on {self.name} {self.channel} cannot be reached: {said.rstrip('.')}.") from error


_ADDRESS = re.compile(r"(?P<name>[a-z_]+):(?://)?(?P<where>[^?]*)(?:\?(?P<more>.*))?", re.DOTALL)
_HOST = re.compile(r"(?P<host>\[[0-9a-fA-F:]+\]|[^/:]+)(?::(?P<port>\d{1,5}))?(?:/(?P<channel>.*))?")


def interface_from(address: str) -> Interface:
    """The interface that an address in one line names: ``socketcand://127.0.0.1:29536/can0``, ``socketcan:can0``,
    ``slcan:/dev/ttyACM0?bit_rate=500000``. Raises PondrelError with one sentence."""
    found = _ADDRESS.fullmatch(address.strip()[:300])
    if found is None or found["name"] not in INTERFACES:
        name = found["name"] if found else address[:40]
        raise PondrelError(
            f"'{name}' is no interface that is known here: {', '.join(INTERFACES)}; an address is such as socketcan:can0 or "
            "socketcand://127.0.0.1:29536/can0."
        )
    more = dict(pair.partition("=")[::2] for pair in (found["more"] or "").split("&") if pair)
    rate = more.pop("bit_rate", more.pop("bitrate", "0"))
    if more or not rate.isdecimal() or not int(rate) <= 5_000_000:
        raise PondrelError(f"Behind the ? of a bus's address stands only bit_rate, such as ?bit_rate=500000, got '{found['more'][:40]}'.")
    where = found["where"]
    if "host" in INTERFACES[found["name"]]:
        host = _HOST.fullmatch(where)
        if host is None or (host["port"] and int(host["port"]) > 65_535):
            raise PondrelError(f"'{where[:60]}' is no address of a bus on the network: it is such as 127.0.0.1:29536/can0.")
        return Interface(found["name"], host["channel"] or "can0", int(rate), host["host"].strip("[]"), int(host["port"] or 29536))
    if not where:
        raise PondrelError(f"Say which channel: {found['name']}:can0, or the name of the device.")
    return Interface(found["name"], where, int(rate))


def _reachable(host: str, port: int) -> None:
    """Said at once where nobody listens: python-can's client tries for ten seconds."""
    try:
        with socket.create_connection((host, port), timeout=2.0):
            pass
    except OSError as error:
        raise PondrelError(f"Nobody listens at {host} port {port} ({error.strerror or error}): is the bus's server started?") from error


def messages_from(interface: Interface, seconds: float, enough: Callable[[], bool], tell: Callable[[int], None]) -> Iterator[can.Message]:
    """Messages for so many seconds, or until it is ``enough``; ``tell`` is told how many came. Their times begin at 0."""
    bus = interface.opened()
    try:
        began, count = time.monotonic(), 0
        while time.monotonic() - began < seconds and not enough():
            message = bus.recv(_LONGEST_WAIT_S)
            if message is None:
                tell(count)
                continue
            message.timestamp = time.monotonic() - began
            count += 1
            if count % 200 == 0:
                tell(count)
            yield message
    except can.CanError as error:
        raise PondrelError(f"The bus broke off: {str(error).splitlines()[0][:160]}.") from error
    finally:
        bus.shutdown()
