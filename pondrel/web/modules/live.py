"""A talk under way: one thread that asks, one that writes down what was said, and what is known so far for the page."""

from __future__ import annotations

import queue
import threading
import time
from collections.abc import Callable, Mapping, Sequence
from contextlib import suppress
from pathlib import Path

from ...core.base.brief import lowered
from ...core.base.errors import PondrelError
from ...core.base.written import Value as Written
from ...core.evidence.hazards import HAZARDS
from ...core.job.codes import BY_PONDREL, scan_content
from ...core.job.entry import Entry
from ...core.module.movement import SLOW, WORKS, heard_says, judged_move, judged_stay
from ...core.module.moving import CAUTION_READ
from ...core.module.roll_call import NOBODY, roll_call
from ...core.module.roster import Module, Output, Roster, Routine
from ...core.talk.exchange import Exchange
from ...instruments.modules.tester import Answered, Codes, Lines, Tester, Value
from ...store.bay import refresh_job
from ...store.db import DATABASE, atomic, opened
from ...store.entries import add_entry, entries_of
from ...store.talks import add_exchanges
from .underway import Driving, Hold, Waking

__all__ = ["FINGER_S", "Live", "Lives"]

FINGER_S = 0.9  # without a word from the page for so long, nobody holds the output any more
IDLE_S, MOST_LIVE, MOST_KEPT = 900.0, 6, 12
MOST_WAITING, MOST_VALUES = 8, 400


class Live:
    """A talk with the modules of a vehicle while it lasts. ``asked`` words are for the record; everything that was said goes there at once.

    Safe to be used from several threads: what is known is replaced and not changed.
    """

    def __init__(
        self, token: str, folder: Path, talk_id: int, roster: Roster, lines: Lines, vehicle_id: int, job_id: int | None, person: str
    ):
        self.token, self.folder, self.talk_id, self.roster = token, folder, talk_id, roster
        self.vehicle_id, self.job_id, self.person = vehicle_id, job_id, person
        self.answered: Mapping[str, Answered] = {}
        self.codes: Mapping[str, Codes] = {}
        self.values: Mapping[str, Sequence[Value]] = {}
        self.results: Mapping[str, tuple[str, bool]] = {}  # of routines, by MODULE.ROUTINE
        self.read_cautions: frozenset[str] = frozenset()
        self.hold: Hold | None = None
        self.waking: Waking | None = None
        self.driving: Driving | None = None
        self.busy, self.error, self.version, self.ended = "", "", 0, False
        self.used_at = self.looked_at = time.monotonic()
        self._waiting: queue.Queue[tuple[str, Callable[[Tester], None]] | None] = queue.Queue(MOST_WAITING)
        self._said: queue.SimpleQueue[Exchange | None] = queue.SimpleQueue()
        self._tester = Tester(roster, lines, self._said.put, lambda: self.ended)
        self._writer = threading.Thread(target=self._write, daemon=True)
        self._writer.start()
        threading.Thread(target=self._work, daemon=True).start()

    def ask(self, words: str, does: Callable[[Tester], None]) -> None:
        """Let the tester do something as soon as it can. Raises PondrelError where it is ended, or has enough to do."""
        if self.ended:
            raise PondrelError("This talk is over: begin a new one.")
        self.used_at = time.monotonic()
        try:
            self._waiting.put_nowait((words, does))
        except queue.Full:
            raise PondrelError("It still has to ask for what was touched before: wait until it is through.") from None

    def end(self) -> None:
        """End the talk: what is held goes back."""
        self.ended = True
        self.version += 1
        with suppress(queue.Full):
            self._waiting.put_nowait(None)

    def watched(self, within_s: float) -> bool:
        """Whether a page has looked at it lately: what goes on for itself ends where nobody does."""
        return time.monotonic() - self.looked_at <= within_s

    def note(self, says: str) -> None:
        """Write down what the person did."""
        self._said.put(Exchange(time.monotonic() - self._tester.began, "", b"", b"", 0.0, says))

    def made_safe(self, acknowledged: frozenset[str], output: Output | Routine) -> frozenset[str]:
        """The names of what was made safe for an output or routine: of this talk, and by cautions that its job has acknowledged."""
        read = acknowledged | self.read_cautions
        names = {name for name in output.hazards if HAZARDS[name].caution in read}
        return frozenset(names | ({CAUTION_READ} if output.caution in read else set()))

    def _work(self) -> None:
        try:
            while not self.ended:
                try:
                    job = self._waiting.get(timeout=1.0)
                except queue.Empty:
                    if time.monotonic() - self.used_at > IDLE_S:
                        break
                    continue
                if job is None:
                    break
                self._do(*job)
        finally:
            self.ended = True
            self._tester.lines.close()
            self._said.put(None)
            self.version += 1

    def _do(self, words: str, does: Callable[[Tester], None]) -> None:
        self.busy, self.error = words, ""
        self.version += 1
        try:
            does(self._tester)
        except PondrelError as error:
            self.error = str(error)
        except Exception as error:  # a thread has nobody else to tell
            self.error = f"That could not be asked: {type(error).__name__}. Try again."
        self.busy = ""
        self.version += 1

    def _write(self) -> None:
        """Write down what is said as it is said, so that it is on the disk when this is killed."""
        conn = opened(self.folder / DATABASE)
        try:
            while True:
                batch = [self._said.get()]
                while not self._said.empty():
                    batch.append(self._said.get())
                said = [one for one in batch if one is not None]
                try:
                    with atomic(conn):
                        add_exchanges(conn, self.talk_id, said)
                except PondrelError as error:
                    self.error = str(error)
                if None in batch:
                    return
        finally:
            conn.close()

    def enter(self, kind: str, content: Callable[[Sequence[Entry]], Mapping[str, Written]]) -> None:
        """A line in the job's record, made from those that are there; nothing where the talk is for no job."""
        if self.job_id is None:
            return
        conn = opened(self.folder / DATABASE)
        try:
            with atomic(conn):
                add_entry(conn, self.job_id, kind, content(entries_of(conn, self.job_id)), person=self.person)
                refresh_job(conn, self.job_id)
        finally:
            conn.close()

    def _entry(self, kind: str, content: Mapping[str, Written]) -> None:
        self.enter(kind, lambda entries: content)

    def entries(self) -> tuple[Entry, ...]:
        """The job's record as it is now; none where the talk is for no job."""
        if self.job_id is None:
            return ()
        conn = opened(self.folder / DATABASE)
        try:
            return tuple(entries_of(conn, self.job_id))
        finally:
            conn.close()

    def tell(self, one: Answered) -> None:
        """Keep whether a module answered."""
        self.answered = {**self.answered, one.module.name: one}
        self.version += 1

    # What can be asked for.

    def call(self, tester: Tester, modules: Sequence[Module] = ()) -> None:
        """Call all modules, or some."""

        called = tester.roll_call(modules, self.tell)
        if not modules:
            here, gone = ([one.module.title for one in called if one.answers is answers] for answers in (True, False))
            if self.roster.by_calling:
                gone = []
            if not here and not gone:
                raise PondrelError(NOBODY)
            says = roll_call(here, gone)
            self._entry("roll_call", {"answered": ", ".join(says.answered), "silent": ", ".join(says.silent)})

    def read_codes(self, tester: Tester, modules: Sequence[Module]) -> None:
        """Read the codes of modules; what was read is a reading out of the job."""
        found = []
        for module in modules:
            try:
                read = tester.codes(module)
                self.answered = {**self.answered, module.name: Answered(module, True)}
                found.append(read)
            except PondrelError as error:
                read = Codes(module, (), (), str(error))
            self.codes = {**self.codes, module.name: read}
            self.version += 1
        if found:
            names = ", ".join(one.module.title for one in found)
            self._entry("scan", scan_content([code for one in found for code in one.codes], f"{BY_PONDREL}{names}"[:300]))

    def clear(self, tester: Tester, module: Module, loss_is_known: bool) -> None:
        """Clear a module's codes after they were read once more, and look what comes back at once."""
        read = tester.codes(module)
        self._entry("scan", scan_content(read.codes, f"{BY_PONDREL}{module.title}, before clearing"))
        tester.clear(module, read, loss_is_known)
        self._entry("cleared", {"text": module.title})
        self.note(f"Codes of {lowered(module.title)} cleared")
        time.sleep(0.3)  # a module tests its circuits again
        self.read_codes(tester, [module])

    def read_data(self, tester: Tester, module: Module) -> None:
        """Read all data of a module."""
        self.values = {**self.values, module.name: tester.data(module)}

    def run(self, tester: Tester, module: Module, routine: Routine, made_safe: frozenset[str]) -> tuple[str, bool]:
        """Run a routine until it has a result: what came of it, and whether that is good."""
        says, good = tester.routine(module, routine, made_safe)
        self.results = {**self.results, f"{module.name}.{routine.name}": (says, good)}
        self._entry("moved", {"text": f"{module.title}, {lowered(routine.title)}: {says}", "module": module.title})
        self.read_codes(tester, [module])
        return says, good

    def hold_it(self, tester: Tester, hold: Hold, made_safe: frozenset[str]) -> None:
        """Command an output as long as a finger is on it, and no longer than its roster lets it be."""
        unit = ""
        try:
            with tester.hold(hold.module, hold.output, hold.command, made_safe) as held:
                hold.commanded = True
                began = time.monotonic()
                if held.before is not None:
                    hold.values.append((0.0, held.before.value))
                    unit = held.before.datum.unit
                while not self._over(hold, began):
                    held.keep()
                    value = held.look()
                    if value is not None:
                        hold.values = [*hold.values, (time.monotonic() - began, value.value)][-MOST_VALUES:]
                        hold.says_now = value.says
                        self.values = {**self.values, hold.module.name: _replaced(self.values.get(hold.module.name, ()), value)}
                    time.sleep(0.05)
                hold.why = self._over(hold, began)
                hold.movement = judged_move(hold.command, hold.values, unit)
            self._entry(
                "moved",
                {"text": f"{hold.output.title}, {hold.command.name}: {hold.movement.says}"[:400], "module": hold.module.title},
            )
        finally:
            hold.ended = True
            self.note(f"{hold.output.title}: control went back to {lowered(hold.module.title)}. {hold.why}".strip())
        self._watch_stay(tester, hold, unit)

    def _watch_stay(self, tester: Tester, hold: Hold, unit: str) -> None:
        """Watch whether what was moved stays where it is, until its time is over or another output is touched."""
        test, watched = hold.output.stay, hold.module.data.get(hold.output.watch)
        if test is None or watched is None or hold.movement is None or hold.movement.word not in (WORKS, SLOW):
            return
        self.busy = f"Watching for {test.seconds:g} s whether it stays"
        self.version += 1
        began, values = time.monotonic(), []
        while (at := time.monotonic() - began) <= test.seconds and self.hold is hold and not self.ended:
            values.append((at, tester.data(hold.module, (watched,))[0].value))
            time.sleep(0.1)
        _, hold.stays = judged_stay(test, values, unit)
        self._entry("moved", {"text": f"{hold.output.title}, after {hold.command.name}: {hold.stays}", "module": hold.module.title})

    def hear(self, heard: bool) -> None:
        """Somebody says whether what was commanded last was heard."""
        hold = self.hold
        if hold is None or not hold.asks or hold.movement is None:
            raise PondrelError("Nothing was commanded that could be heard: hold an output first.")
        hold.heard, hold.was_heard = heard_says(hold.movement.word, heard), heard
        said = hold.output.hear if heard else f"not heard: {hold.output.hear}"
        self._entry("moved", {"text": f"{hold.output.title}, {hold.command.name}: {said}. {hold.heard}"[:400], "module": hold.module.title})
        self.note(f"{hold.output.title}: {said}")
        self.version += 1

    def _over(self, hold: Hold, began: float) -> str:
        """Why an output is given back now; empty while it is held."""
        now = time.monotonic()
        if hold.let_go:
            return "It was let go."
        if self.ended:
            return "The talk was ended."
        if now - hold.kept_at > FINGER_S:
            return "Nobody held it any more."
        return f"Its {hold.output.longest_s:g} s were over." if now - began >= hold.output.longest_s else ""


def _replaced(values: Sequence[Value], value: Value) -> tuple[Value, ...]:
    others = [one for one in values if one.datum.name != value.datum.name]
    return (*others, value) if len(others) == len(values) else tuple(value if v.datum.name == value.datum.name else v for v in values)


class Lives:
    """The talks that this server holds."""

    def __init__(self) -> None:
        self.lock = threading.Lock()
        self.known: dict[str, Live] = {}

    def begin(self, make: Callable[[], Live]) -> Live:
        """Begin one. Raises PondrelError where as many as there may be are under way."""
        with self.lock:
            if sum(not one.ended for one in self.known.values()) >= MOST_LIVE:
                raise PondrelError(f"{MOST_LIVE} talks are under way already: end one first.")
            for old in [token for token, one in self.known.items() if one.ended][:-MOST_KEPT]:
                del self.known[old]
            own = make()
            self.known[own.token] = own
            return own
