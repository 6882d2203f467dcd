"""The data folder: who may look into it, the key that signs sessions, and who is using it just now."""

from __future__ import annotations

import fcntl
import os
import secrets
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from .db import DATABASE, StoreError

__all__ = ["Busy", "prepared", "secret", "used_alone", "used_by_server"]

_LOCK = "in-use.lock"
_KEY_BYTES = 32


class Busy(StoreError):
    """Somebody else is using the data folder in a way that does not go together with what was asked."""


def prepared(folder: Path) -> Path:
    """The folder, made if need be; it and what it holds is for its owner alone. Raises StoreError where that cannot be."""
    try:
        new = not folder.exists()
        folder.mkdir(mode=0o700, parents=True, exist_ok=True)
        if new or (folder / DATABASE).exists() or not any(folder.iterdir()):
            _close_to_others(folder, 0o700)
        for file in (folder / DATABASE, *(folder / f"{DATABASE}{suffix}" for suffix in ("-wal", "-shm")), folder / "secret"):
            if file.exists():
                _close_to_others(file, 0o600)
    except OSError as error:
        raise StoreError(f"The data folder {folder} cannot be used ({error.strerror}): name another in PONDREL_DATA.") from error
    return folder


def _close_to_others(path: Path, mode: int) -> None:
    """Take from others what rights they have; who does not own it leaves it as it is."""
    stat = path.stat()
    if stat.st_uid == os.geteuid() and stat.st_mode & 0o077:
        path.chmod(stat.st_mode & 0o700 & mode)


def secret(folder: Path) -> bytes:
    """The key that signs sessions, made once per data folder; one that is too short to be a key, as after a full disk, is made anew."""
    file = folder / "secret"
    try:
        found = file.read_bytes()
        if len(found) >= _KEY_BYTES:
            return found
        file.unlink()
    except FileNotFoundError:
        pass
    except OSError as error:
        raise StoreError(f"{file.name} cannot be read ({error.strerror}): give Pondrel the right to read its data folder.") from error
    key = secrets.token_bytes(_KEY_BYTES)
    beside = folder / f".secret.{os.getpid()}.new"
    try:
        with os.fdopen(os.open(beside, os.O_WRONLY | os.O_CREAT | os.O_TRUNC, 0o600), "wb") as out:
            out.write(key)
        os.link(beside, file)  # whoever was first wins
    except FileExistsError:
        key = file.read_bytes()
    except OSError as error:
        raise StoreError(f"The data folder takes no new file ({error.strerror}): make room, or give Pondrel the right to write.") from error
    finally:
        beside.unlink(missing_ok=True)
    return key


@contextmanager
def used_by_server(folder: Path) -> Iterator[None]:
    """While a server runs: other servers may, a reset may not."""
    with _locked(folder, fcntl.LOCK_SH, "The data folder is being reset: start again in a moment."):
        yield


@contextmanager
def used_alone(folder: Path) -> Iterator[None]:
    """While the database is replaced. Raises Busy where a server runs."""
    with _locked(folder, fcntl.LOCK_EX, "A Pondrel server is using this data folder: stop it first, then reset."):
        yield


@contextmanager
def _locked(folder: Path, how: int, refusal: str) -> Iterator[None]:
    try:
        handle = os.open(folder / _LOCK, os.O_RDWR | os.O_CREAT, 0o600)
    except OSError as error:
        raise StoreError(f"The data folder takes no new file ({error.strerror}): give Pondrel the right to write there.") from error
    try:
        try:
            fcntl.flock(handle, how | fcntl.LOCK_NB)
        except BlockingIOError:
            raise Busy(refusal) from None
        yield
    finally:
        os.close(handle)
