"""`pondrel bus`: logs of a network bus read, decoded by signal databases, looked through and converted."""

from __future__ import annotations

import csv
import json
import sys
from pathlib import Path

import click

from ..core.base.errors import ReadingError
from ..core.bus.census import Census, Guard, census_json, census_of, changed_between
from ..core.bus.database import Known, SignalDatabase, database_from
from ..core.bus.decode import DECODED_COLUMNS, Short, decoded_lines
from ..core.bus.frames import Frames, joined
from ..core.bus.summary import Summary, summary_json, summary_of
from ..logs.reading import LogFile
from ..logs.writing import format_for, write_log

__all__ = ["bus"]

_JSON = click.option("--json", "as_json", is_flag=True, help="Print JSON.")
_DATABASES = click.option(
    "--db", "databases", multiple=True, metavar="[CHANNEL=]FILE", help="A signal database (DBC, ARXML, KCD, SYM), for one channel or all."
)


@click.group()
def bus() -> None:
    """Network buses: read, decode, census, convert."""


def _database(word: str) -> SignalDatabase:
    channel, mark, rest = word.partition("=")
    path = Path(word)
    if mark and not path.exists():
        path = Path(rest)
    else:
        channel = ""
    try:
        text = path.read_bytes()
    except OSError as error:
        raise ReadingError(f"{path} cannot be read: {error.strerror}.") from error
    return database_from(text, path.name, channel)


def _known(databases: tuple[str, ...]) -> Known:
    return Known([_database(word) for word in databases])


def _whole(log: LogFile) -> Frames:
    return joined(list(log))


@bus.command()
@click.argument("log", type=click.Path(path_type=Path))
@_DATABASES
@_JSON
def read(log: Path, databases: tuple[str, ...], as_json: bool) -> None:
    """What is in a log: channels, identifiers and how often they come, what the databases know of them."""
    known = _known(databases)
    file = LogFile(log)
    frames = _whole(file)
    own = summary_of(frames, file.channels.names, known, file.notes)
    if as_json:
        click.echo(json.dumps(summary_json(own), indent=2, ensure_ascii=False, allow_nan=False))
        return
    _tell(own)


def _tell(own: Summary) -> None:
    for note in own.notes:
        click.echo(note)
    if own.first is None or own.last is None:
        return
    click.echo(f"{own.frames} frames in {own.last - own.first:.6g} s on {', '.join(own.channels)}; {own.error_frames} error frames.")
    for row in own.ids:
        timing = row.timing
        every = "" if timing.period is None else f"every {1e3 * timing.period:.4g} ms"
        should = f", should be {1e3 * timing.expected:.4g} ms" if timing.expected and timing.given else ""
        click.echo(f"  {row.channel:8} {row.spelled:>8}  {row.name or 'unknown':28} {timing.count:8}  {timing.state:8} {every}{should}")


@bus.command()
@click.argument("log", type=click.Path(path_type=Path))
@_DATABASES
@click.option("--csv", "as_csv", is_flag=True, help="Print a table: a line for each signal, in the log's order.")
@click.option("--signal", "signals", multiple=True, metavar="NAME", help="Only signals of that name.")
def decode(log: Path, databases: tuple[str, ...], as_csv: bool, signals: tuple[str, ...]) -> None:
    """Decode a log by signal databases."""
    if not databases:
        raise ReadingError("Decoding needs a signal database: --db FILE.")
    known = _known(databases)
    file, short = LogFile(log), Short()
    out = csv.writer(sys.stdout, lineterminator="\n")
    if as_csv:
        out.writerow(DECODED_COLUMNS)
    for frames in file:
        for row in decoded_lines(frames, file.channels.names, known, short):
            if signals and row[4] not in signals:
                continue
            if as_csv:
                out.writerow(row)
            else:
                time, channel, _, frame, signal, _, value, text, unit = row
                click.echo(f"{time:.6f} {channel} {frame}.{signal} = {text or value} {unit}".rstrip())
    notes = [*file.notes, *known.notes, *short.notes]
    if short.unknown:
        notes.append(f"Frames that no database knows: {short.unknown}.")
    for note in notes:
        click.echo(note, err=True)


@bus.command()
@click.argument("log", type=click.Path(path_type=Path))
@_DATABASES
@click.option("--against", type=click.Path(path_type=Path), help="A log to compare with: of a good vehicle, or from before.")
@click.option("--bit-rate", "bit_rates", multiple=True, metavar="[CHANNEL=]RATE", help="Bits a second, where they are known.")
@_JSON
def census(log: Path, databases: tuple[str, ...], against: Path | None, bit_rates: tuple[str, ...], as_json: bool) -> None:
    """Who sends and how often, counters, check sums, how full the bus is, flags that are set; what differs from another log."""
    known, rates = _known(databases), _rates(bit_rates)
    own = _census(log, known, rates)
    changes = None if against is None else changed_between(_census(against, known, rates), own)
    if as_json:
        click.echo(json.dumps(census_json(own, changes), indent=2, ensure_ascii=False, allow_nan=False))
        return
    _tell(own.summary)
    for load in own.loads:
        if load.bit_rate and load.mean is not None and load.most is not None:
            how = ", as it seems" if load.guessed else ""
            click.echo(f"{load.channel}: {load.bit_rate} bit/s{how}, {100 * load.mean:.1f} % full, at most {100 * load.most:.0f} %.")
    for sender in own.senders:
        if sender.name and sender.state != "talks":
            click.echo(f"{sender.name} is {sender.state}.")
    for guard in own.guards:
        if guard.wrong:
            click.echo(_guard(guard))
    for flag in own.flags:
        since = "from the first frame" if flag.from_first else f"from {flag.since:.3f} s"
        click.echo(f"Set: {flag.says}{f' ({flag.text})' if flag.text else ''}, says {', '.join(flag.senders) or flag.frame}, {since}.")
    for change in changes or ():
        click.echo(f"{change.telling:.2f}  {change.frame} {change.signal}: {change.says}: {change.before} -> {change.after}")


def _census(log: Path, known: Known, rates: dict[str, int]) -> Census:
    file = LogFile(log)
    frames = _whole(file)
    everywhere = rates.get("")
    own = {name: rates.get(name, everywhere) for name in file.channels.names}
    return census_of(frames, file.channels.names, known, file.notes, {name: rate for name, rate in own.items() if rate})


def _rates(words: tuple[str, ...]) -> dict[str, int]:
    found = {}
    for word in words:
        channel, _, rate = word.rpartition("=")
        if not rate.isdigit() or not 1_000 <= int(rate) <= 20_000_000:
            raise ReadingError(f"{word}: a bit rate is a whole number of bits a second such as 500000.")
        found[channel] = int(rate)
    return found


def _guard(guard: Guard) -> str:
    if guard.counter is not None:
        own = guard.counter
        if own.stuck_since is not None:
            return f"{guard.frame}: the counter {own.signal} has stood still since {own.stuck_since:.3f} s."
        times = "once" if own.jumps == 1 else f"{own.jumps} times"
        return f"{guard.frame}: the counter {own.signal} jumped {times}: frames are missing."
    assert guard.check_sum is not None
    return f"{guard.frame}: {guard.check_sum.wrong} of {guard.check_sum.frames} check sums are wrong ({guard.check_sum.rule})."


@bus.command()
@click.argument("log", type=click.Path(path_type=Path))
@click.argument("out", type=click.Path(path_type=Path))
def convert(log: Path, out: Path) -> None:
    """Write a log anew: as candump (.log), ASC (.asc) or a table (.csv), each also packed (.gz)."""
    format_for(out)
    if out.exists() and out.resolve() == log.resolve():
        raise ReadingError(f"{out} is the log itself: name another file.")
    file = LogFile(log)
    count, said = write_log(out, file, file.channels)
    for note in (*file.notes, *said):
        click.echo(note, err=True)
    click.echo(f"{count} frames written to {out}.")
