"""A capture from a file of numpy arrays (.npz): a channel an array, with times or a rate beside them; or one table with times first
(.npy)."""

from __future__ import annotations

import re
import zipfile
from collections.abc import Mapping
from typing import Any, BinaryIO

import numpy as np
from numpy.typing import NDArray

from ..base.brief import quoted
from ..base.errors import CaptureError
from .capture import LEAST_SAMPLES, MOST_VALUES, Capture, Channel
from .times import bridged, even_times

__all__ = ["capture_from_npy", "capture_from_npz"]

_TIMES = ("time", "times", "t", "time_s", "seconds", "x")
_RATES = ("rate", "rate_hz", "fs", "sample_rate", "samplerate", "sampling_rate")
_STEPS = ("step", "dt", "interval", "period", "step_s")
_WANTED = "arrays of one length each, and 'time', or one number called 'rate' (Hz) or 'step' (s), are wanted"
_UNIT = re.compile(r"\s*[\[(](m?[VA])[\])]\s*$")
_UNIT_OF_ENDING = {"_v": "V", "_a": "A", "_mv": "mV", "_ma": "mA"}


def capture_from_npz(stream: BinaryIO) -> Capture:
    """The capture in an .npz file. Raises CaptureError with one sentence."""
    try:
        with zipfile.ZipFile(stream) as packed:
            size = sum(entry.file_size for entry in packed.infolist())
        if size > 8 * MOST_VALUES + (1 << 20):
            raise CaptureError(f"The arrays in it take {size / 1e6:.0f} MB, and {MOST_VALUES * 8 / 1e6:.0f} MB are the most.")
        stream.seek(0)
        with np.load(stream, allow_pickle=False) as found:
            arrays = {name: np.asarray(found[name]) for name in found.files}
    except CaptureError:
        raise
    except Exception:  # a damaged archive fails in many ways: in zlib, in the zip's directory, in the header of an array
        raise CaptureError(f"This .npz file cannot be read, it is damaged or holds no plain arrays: {_WANTED}.") from None
    return _from_arrays(arrays)


def capture_from_npy(stream: BinaryIO) -> Capture:
    """The capture in an .npy file: a table whose first column is time in seconds. Raises CaptureError with one sentence."""
    try:
        table = np.load(stream, allow_pickle=False)
    except Exception:  # as above
        raise CaptureError("This .npy file cannot be read: it is damaged or holds no plain numbers.") from None
    if table.ndim != 2 or table.shape[1] < 2:
        raise CaptureError("This .npy file holds one array and no rate: an .npz file with 'time' or 'rate' beside it is wanted.")
    return _from_arrays({"time": table[:, 0], **{f"channel {k}": table[:, k] for k in range(1, table.shape[1])}})


def _from_arrays(arrays: Mapping[str, NDArray[Any]]) -> Capture:
    by_name = {name.lower().strip(): name for name in arrays}
    timed = next((by_name[name] for name in _TIMES if name in by_name and arrays[by_name[name]].ndim == 1), None)
    step = _one_number(arrays, by_name, _STEPS)
    rate = _one_number(arrays, by_name, _RATES)
    channels: dict[str, NDArray[Any]] = {}
    for name, array in arrays.items():
        if name == timed or array.ndim == 0 or array.size == 1 or array.dtype.kind not in "fiub":
            continue
        if array.ndim == 1:
            channels[name] = array
        elif array.ndim == 2:
            own = array if array.shape[0] < array.shape[1] else array.T
            channels |= {f"{name} {k + 1}": own[k] for k in range(len(own))}
    if not channels:
        raise CaptureError(f"There is no channel in this file: {_WANTED}.")
    lengths = {len(array) for array in (*channels.values(), *((arrays[timed],) if timed else ()))}
    if len(lengths) > 1:
        raise CaptureError(f"The arrays in this file have {' and '.join(str(n) for n in sorted(lengths)[:4])} samples: {_WANTED}.")
    (count,) = lengths
    if count < LEAST_SAMPLES:
        raise CaptureError(f"There are {count} samples, and at least {LEAST_SAMPLES} are wanted.")
    if count * len(channels) > MOST_VALUES:
        raise CaptureError(f"There are {count} samples of {len(channels)} channels, and {MOST_VALUES} numbers are the most.")
    if timed is not None:
        times = arrays[timed].astype(np.float64)
        if not np.isfinite(times).all():
            raise CaptureError(f"Sample {int(np.argmin(np.isfinite(times))) + 1} of {quoted(timed)} is no time.")
        even = even_times(times, 1.0)
        notes = [even.note] if even.note else []
        made = []
        for name, array in channels.items():
            values, note = _numbers(array, name)
            notes += [note] if note else []
            made.append(_channel(name, even.brought(np.asarray(values, dtype=np.float64)) if even.note else values))
        return Capture(tuple(made), even.step, even.start, tuple(notes))
    if step is None and rate is None:
        raise CaptureError(f"There is no time in this file: {_WANTED}.")
    notes, made = [], []
    for name, array in channels.items():
        values, note = _numbers(array, name)
        notes += [note] if note else []
        made.append(_channel(name, values))
    return Capture(tuple(made), step if step is not None else 1.0 / (rate or 1.0), 0.0, tuple(notes))


def _numbers(array: NDArray[Any], name: str) -> tuple[NDArray[Any], str]:
    if array.dtype.kind != "f":
        return np.ascontiguousarray(array.astype(np.uint8) if array.dtype.kind == "b" else array), ""
    values = np.ascontiguousarray(array)
    note = ""
    if not np.isfinite(values.sum(dtype=np.float64)):
        values = values.astype(np.float64)
        note = bridged(values, name)
    return values, note


def _channel(name: str, values: NDArray[Any]) -> Channel:
    bracket = _UNIT.search(name)
    if bracket is not None:
        return Channel(
            name[: bracket.start()].strip() or name, bracket[1].removeprefix("m"), values, 1e-3 if bracket[1].startswith("m") else 1.0
        )
    unit = next((unit for ending, unit in _UNIT_OF_ENDING.items() if name.lower().endswith(ending)), "")
    gain = 1e-3 if unit.startswith("m") else 1.0
    return Channel(name, unit.removeprefix("m"), values, gain)


def _one_number(arrays: Mapping[str, NDArray[Any]], by_name: Mapping[str, str], names: tuple[str, ...]) -> float | None:
    for name in names:
        if name in by_name and arrays[by_name[name]].size == 1 and arrays[by_name[name]].dtype.kind in "fiu":
            value = float(arrays[by_name[name]].reshape(())[()])
            if not np.isfinite(value) or value <= 0.0:
                raise CaptureError(f"{quoted(by_name[name])} is {value:g}: a number above nought is wanted.")
            return value
    return None
