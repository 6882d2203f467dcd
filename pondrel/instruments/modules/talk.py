"""A conversation with one module: a request, patience where it asks for it, its answer or why there is none. All of it is told to a
listener, so that nothing that was sent is missing from the record."""

from __future__ import annotations

import time
from collections.abc import Callable, Collection

from udsoncan.client import Client
from udsoncan.configs import default_client_config
from udsoncan.connections import BaseConnection
from udsoncan.exceptions import InvalidResponseException, NegativeResponseException, TimeoutException, UnexpectedResponseException
from udsoncan.Request import Request

from ...core.module.roster import Module, Speaks
from ...core.talk.exchange import Exchange
from ...core.talk.services import ANSWER, REFUSED, refusal_of
from .trouble import Broken, Refused, Silent

__all__ = ["LONGEST_WAIT_S", "PATIENCE_S", "Talk"]

ANSWERS_WITHIN_S = 2.0  # what a gateway and an adapter on a network add to the 50 ms of the standard; common practice, no source
PATIENCE_S = 5.5  # after "it comes later" (P2*: 5 s)
LONGEST_WAIT_S = 30.0
_PIECE_S, _LEAST_S = 0.5, 0.005


class _Told(BaseConnection):
    """A line that tells a listener of all that goes over it."""

    def __init__(self, line: BaseConnection, module: str, heard: Callable[[Exchange], None], began: float, stop: Callable[[], bool]):
        super().__init__(module)
        self.line, self.module, self.heard, self.began, self.stop = line, module, heard, began, stop
        self.request, self.asked_at = b"", 0.0

    def open(self) -> _Told:
        return self

    def close(self) -> None:
        """The line is its owner's."""

    def is_open(self) -> bool:
        return bool(self.line.is_open())

    def empty_rxqueue(self) -> None:
        self.line.empty_rxqueue()

    def specific_send(self, payload: bytes, timeout: float | None = None) -> None:
        self.request, self.asked_at = bytes(payload), time.monotonic()
        self.line.send(payload)

    def specific_wait_frame(self, timeout: float | None = None) -> bytes | None:
        end = time.monotonic() + (ANSWERS_WITHIN_S if timeout is None else timeout)
        while True:
            left = 0.0 if self.stop() else end - time.monotonic()
            try:
                found = self.line.wait_frame(timeout=max(min(left, _PIECE_S), _LEAST_S), exception=True)
            except TimeoutException:
                now = time.monotonic()
                if (now >= end and not (self._coming() and now < end + LONGEST_WAIT_S)) or self.stop():
                    raise
                continue
            if found:
                self.tell(bytes(found))
                return bytes(found)

    def _coming(self) -> bool:
        """Whether the beginning of an answer is there and its end is not: then it is not late, and the transport sees to its end."""
        layer = getattr(self.line, "isotp_layer", None)
        return layer is not None and bool(layer.is_rx_active())

    def tell(self, answer: bytes, fault: str = "") -> None:
        """Tell the listener how the last request ended."""
        now = time.monotonic()
        self.heard(Exchange(self.asked_at - self.began, self.module, self.request, answer, now - self.asked_at, fault))


class Talk:
    """A talk with a module over a line. ``faults`` gives what the transport complained of since it was asked last; ``stop`` says that
    nobody waits for the answer any more."""

    def __init__(
        self, module: Module, line: BaseConnection, heard: Callable[[Exchange], None], began: float,
        faults: Callable[[], Collection[str]] = tuple, stop: Callable[[], bool] = lambda: False,
    ):  # fmt: skip
        self.module, self._faults = module, faults
        self._line = _Told(line, module.name, heard, began, stop)
        settings = dict(default_client_config) | {
            "request_timeout": LONGEST_WAIT_S, "p2_timeout": ANSWERS_WITHIN_S, "p2_star_timeout": PATIENCE_S, "use_server_timing": False,
        }  # fmt: skip
        self._client = Client(self._line, config=settings)  # type: ignore[arg-type]

    def ask(self, request: bytes, within_s: float = ANSWERS_WITHIN_S) -> bytes:
        """The answer to a request, its service first, within so many seconds, or later where the module asks for patience. Raises Refused,
        Silent or Broken with one sentence."""
        self._faults()
        try:
            if self.module.speaks is Speaks.UDS:
                return self._by_library(request, within_s)
            return self._by_hand(request, within_s)
        except TimeoutException:
            said = next(iter(self._faults()), "")
            self._line.tell(b"", said or "no answer")
            if said:
                raise Broken(f"{self.module.title}: {said}.") from None
            raise Silent(f"{self.module.title} does not answer.") from None
        except OSError as error:
            self._line.tell(b"", "the line broke off")
            raise Broken(f"{self.module.title}: the line broke off ({str(error)[:100]}).") from error

    def _by_library(self, request: bytes, within_s: float) -> bytes:
        self._client.set_config("p2_timeout", within_s)
        try:
            answer = self._client.send_request(Request.from_payload(request))
        except NegativeResponseException as error:
            refusal = refusal_of(bytes(error.response.original_payload or b""))
            if refusal is None:
                raise Broken(f"{self.module.title}: a refusal came that cannot be read.") from None
            raise Refused(refusal, self.module.title) from None
        except (InvalidResponseException, UnexpectedResponseException) as error:
            raw = bytes(error.response.original_payload or b"")
            raise Broken(f"{self.module.title}: something came that was not asked for ({raw[:12].hex(' ').upper()}).") from None
        return bytes(answer.original_payload or b"") if answer is not None else b""

    def _by_hand(self, request: bytes, within_s: float) -> bytes:
        self._line.empty_rxqueue()
        self._line.send(request)
        wait, end = within_s, time.monotonic() + LONGEST_WAIT_S
        while time.monotonic() < end:
            answer = self._line.wait_frame(timeout=wait, exception=True) or b""
            refusal = refusal_of(answer)
            if refusal is not None and refusal.service == request[0]:
                if not refusal.waits:
                    raise Refused(refusal, self.module.title)
                wait = PATIENCE_S
            elif answer[:1] == bytes([request[0] + ANSWER]) and answer[0] != REFUSED:
                return bytes(answer)
        raise TimeoutException("it asks for patience without end")  # type: ignore[no-untyped-call]
