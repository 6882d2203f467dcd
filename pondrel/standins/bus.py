"""The simulated vehicle's bus on a loopback port, by the protocol of socketcand: what a log holds is sent again, in its rhythm, round and
round; modules of the circuit that do not answer are silent.

As python-can's client speaks it (https://github.com/linux-can/socketcand, doc/protocol.md; from memory): ``< hi >``, ``< open can0 >``,
``< ok >``, ``< rawmode >``, ``< ok >``, then ``< frame 123 1.000000 1122 >`` from here and ``< send 123 2 11 22 >`` from there.
"""

from __future__ import annotations

import re
import socketserver
import threading
import time
from collections.abc import Callable, Collection, Mapping
from queue import Empty, SimpleQueue

from ..core.bus.frames import ERROR, EXTENDED, FD, LIN, REMOTE, Frames
from ..core.library.bus_links import about
from .world import World

__all__ = ["BusServer", "Rhythm", "silent_senders"]

IDLE_S = 600.0
MOST_CONNECTIONS = 8
SETTLE_S = 0.1  # behind the handshake, since its answers are read one by one
LONGEST = 4096
_PAUSE_S = 0.2  # between the end of the log and its beginning
_MESSAGE = re.compile(rb"<\s*(.*?)\s*>", re.DOTALL)
_SEND = re.compile(r"send ([0-9A-Fa-f]{1,8}) ([0-8]) ?((?:[0-9A-Fa-f]{1,2} ?)*)$")


class Rhythm:
    """What is sent and when: of each frame the second from the beginning, its text, and its identifier; only classical frames with data
    go over this protocol."""

    def __init__(self, frames: Frames | None = None, senders: Mapping[int, Collection[str]] | None = None) -> None:
        self.senders = senders or {}
        self.frames: list[tuple[float, int, str]] = []
        self.seconds = _PAUSE_S
        if frames is not None:
            self._lay(frames)

    def _lay(self, frames: Frames) -> None:
        begins = frames.begins
        plain = (frames.flags & (ERROR | FD | LIN | REMOTE)) == 0
        start = float(frames.time[0]) if len(frames) else 0.0
        for place in plain.nonzero()[0].tolist():
            identity, extended = int(frames.id[place]), bool(frames.flags[place] & EXTENDED)
            said = _said(identity, extended, frames.bytes_of(place, begins))
            self.frames.append((float(frames.time[place]) - start, identity, said))
        self.seconds = (self.frames[-1][0] if self.frames else 0.0) + _PAUSE_S


def _said(identity: int, extended: bool, data: bytes) -> str:
    """A frame as the protocol says it, but for its time."""
    return f"{identity:08X} {{time:.6f}} {data.hex().upper()}" if extended else f"{identity:03X} {{time:.6f}} {data.hex().upper()}"


def silent_senders(world: World, names: Collection[str]) -> frozenset[str]:
    """The senders whose module on the circuit does not answer as it stands now, by the words of their names."""
    sights = world.point().sights
    dead = [
        about(world.sheet.parts[part].called)
        for part, shown in sights.items()
        if any(one.what == "answers" and one.value < 0.5 for one in shown)
    ]
    return frozenset(name for name in names if any(about(name) and about(name) <= words for words in dead))


class _Session(socketserver.BaseRequestHandler):
    server: BusServer

    def handle(self) -> None:
        if not self.server.places.acquire(blocking=False):
            return
        self.request.settimeout(IDLE_S)
        others: SimpleQueue[str] = SimpleQueue()
        try:
            if self._agreed():
                self.server.join(others)
                threading.Thread(target=self._listen, args=(others,), daemon=True).start()
                self._play(others)
        except (OSError, TimeoutError):
            return
        finally:
            self.server.leave(others)
            self.server.places.release()

    def _next(self) -> str:
        found = b""
        while b">" not in found:
            piece = self.request.recv(256)
            if not piece or len(found) > LONGEST:
                return ""
            found += piece
        said = _MESSAGE.search(found)
        return said[1].decode("ascii", "replace") if said else ""

    def _agreed(self) -> bool:
        self.request.sendall(b"< hi >")
        opened = self._next()
        if not re.fullmatch(r"open \S{1,16}", opened):
            self.request.sendall(b"< error could not open bus >")
            return False
        self.request.sendall(b"< ok >")
        if self._next() != "rawmode":
            self.request.sendall(b"< error unknown command >")
            return False
        self.request.sendall(b"< ok >")
        time.sleep(SETTLE_S)
        return True

    def _listen(self, own: SimpleQueue[str]) -> None:
        """What a client sends reaches all others."""
        kept = b""
        while True:
            try:
                piece = self.request.recv(1024)
            except (OSError, TimeoutError):
                return
            if not piece:
                return
            kept = (kept + piece)[-LONGEST:]
            while (said := _MESSAGE.search(kept)) is not None:
                kept = kept[said.end() :]
                sent = _SEND.match(said[1].decode("ascii", "replace"))
                if sent is not None:
                    data = bytes(int(word, 16) for word in sent[3].split())[: int(sent[2])]
                    identity, extended = int(sent[1], 16), len(sent[1]) > 3
                    self.server.tell(_said(identity, extended, data), own)
                    for hears in self.server.hearers:
                        hears(identity, data)

    def _play(self, others: SimpleQueue[str]) -> None:
        rhythm, began = self.server.rhythm, time.monotonic()
        turn = place = 0
        while not self.server.ended:
            now = time.monotonic() - began
            ready: list[str] = []
            while rhythm.frames and turn * rhythm.seconds + rhythm.frames[place][0] <= now and len(ready) < 500:
                at, identity, text = rhythm.frames[place]
                if not set(rhythm.senders.get(identity, ())) & self.server.silent():
                    ready.append(text.format(time=turn * rhythm.seconds + at))
                place += 1
                if place == len(rhythm.frames):
                    place, turn = 0, turn + 1
            while True:
                try:
                    ready.append(others.get_nowait().format(time=now))
                except Empty:
                    break
            if ready:
                self.request.sendall("".join(f"< frame {text} >" for text in ready).encode("ascii"))
            else:
                time.sleep(0.002)


class BusServer(socketserver.ThreadingTCPServer):
    """Serves one bus to several listeners; ``silent`` tells whose frames are not sent just now."""

    allow_reuse_address = True
    daemon_threads = True

    def __init__(self, rhythm: Rhythm, port: int = 0, silent: Callable[[], frozenset[str]] = frozenset, host: str = "127.0.0.1") -> None:
        self.rhythm, self.ended = rhythm, False
        self.places = threading.Semaphore(MOST_CONNECTIONS)
        self._asked, self._silent, self._told = silent, frozenset[str](), -1.0
        self._lock = threading.Lock()
        self._joined: list[SimpleQueue[str]] = []
        self.hearers: list[Callable[[int, bytes], None]] = []  # modules: told of every frame that a client sends
        super().__init__((host, port), _Session)

    @property
    def port(self) -> int:
        """The port that it listens on."""
        return int(self.server_address[1])

    def silent(self) -> frozenset[str]:
        """Whose frames are not sent; asked for anew ten times a second."""
        with self._lock:
            now = time.monotonic()
            if now - self._told > 0.1:
                self._silent, self._told = self._asked(), now
            return self._silent

    def join(self, own: SimpleQueue[str]) -> None:
        """One more that hears what others send."""
        with self._lock:
            self._joined.append(own)

    def leave(self, own: SimpleQueue[str]) -> None:
        """One less."""
        with self._lock:
            self._joined = [one for one in self._joined if one is not own]

    def send(self, identity: int, data: bytes) -> None:
        """A module puts a frame on the bus."""
        self.tell(_said(identity, identity > 0x7FF, data), None)

    def tell(self, text: str, own: SimpleQueue[str] | None) -> None:
        """What one client sends goes to all others."""
        with self._lock:
            joined = [one for one in self._joined if one is not own]
        for one in joined:
            one.put(text)

    def server_close(self) -> None:
        """Stop serving; sessions end by themselves."""
        self.ended = True
        super().server_close()
