"""A capture of ten million samples beside numpy that reads and scans the same array once: ratios of time and of memory in one run.

Each is a process of its own, so that its peak of memory is its own; what the interpreter and the imports take is taken off both. As WAV
(16 bits) numpy reads the samples by `fromfile` and looks for least, most and mean; as CSV it reads them by `loadtxt`.

python -m benchmarks.capture
"""

from __future__ import annotations

import json
import subprocess
import sys
import tempfile
import wave
from pathlib import Path

import numpy as np

SAMPLES, RATE, ROUNDS = 10_000_000, 1_000_000, 5
_TIMED = """
import json, sys, time
def peak():
    return int(next(line for line in open("/proc/self/status") if line.startswith("VmHWM")).split()[1])
{imports}
before = peak()
began = time.process_time()
run(sys.argv[1])
print(json.dumps([time.process_time() - began, peak() - before]))
"""
_OURS = """
from pondrel.core.bench import case_from
from pondrel.core.power.capture_verdict import CAPTURE, capture_outcome
from pondrel.core.wave import capture_from
import numpy.fft, numpy.polynomial, numpy.random
CASE = case_from(CAPTURE, [("full_scale", "20")])
def run(path):
    with open(path, "rb") as stream:
        capture_outcome(CASE, capture_from(stream, 20.0))
"""
_SCAN = """
import numpy as np
def scan(own):
    own.min(), own.max(), own.mean()
"""
_WAV = (
    _SCAN
    + """
def run(path):
    scan(np.fromfile(path, "<i2", offset=44))
"""
)
_CSV = (
    _SCAN
    + """
def run(path):
    scan(np.loadtxt(path, delimiter=",", skiprows=1))
"""
)


def _measured(imports: str, path: Path) -> tuple[float, float]:
    code = _TIMED.format(imports=imports)
    done = subprocess.run([sys.executable, "-c", code, str(path)], check=True, capture_output=True, text=True)
    seconds, kilobytes = json.loads(done.stdout)
    return seconds, kilobytes / 1024.0


def _volts() -> np.ndarray:
    """Ten seconds: rest, cranking with its compressions, charging with ripple."""
    t = np.arange(SAMPLES) / RATE
    volts = np.where(t < 2.0, 12.6, np.where(t < 4.0, 10.6 + 0.4 * np.sin(2 * np.pi * 9.0 * t), 14.2))
    volts += np.random.default_rng(1).normal(0.0, 0.01, SAMPLES)
    volts[int(2.0 * RATE) : int(2.05 * RATE)] -= 2.5
    running = t >= 4.0
    volts[running] += 0.05 * np.abs(np.sin(2 * np.pi * 1200.0 * t[running]))
    return volts


def main() -> None:
    """Print the ratios."""
    volts = _volts()
    with tempfile.TemporaryDirectory() as folder:
        as_wav, as_csv = Path(folder) / "capture.wav", Path(folder) / "capture.csv"
        with wave.open(str(as_wav), "wb") as out:
            out.setnchannels(1)
            out.setsampwidth(2)
            out.setframerate(RATE)
            out.writeframes((volts / 20.0 * 32768.0).astype("<i2").tobytes())
        with as_csv.open("w") as text:
            text.write("time,volts\n")
            for start in range(0, SAMPLES, 100_000):
                piece = volts[start : start + 100_000]
                text.write("".join(f"{(start + k) / RATE:.6f},{value:.4f}\n" for k, value in enumerate(piece)))
        for name, reference, path in (("WAV", _WAV, as_wav), ("CSV", _CSV, as_csv)):
            # In turns, the best of each: what else the machine does meanwhile hits both.
            pairs = [(_measured(_OURS, path), _measured(reference, path)) for _ in range(ROUNDS)]
            ours, our_memory = (min(pair[0][k] for pair in pairs) for k in (0, 1))
            theirs, their_memory = (min(pair[1][k] for pair in pairs) for k in (0, 1))
            print(
                f"{name}: {SAMPLES:,} samples in {ours:.2f} s and {our_memory:.0f} MB; numpy reads and scans them in {theirs:.2f} s and "
                f"{their_memory:.0f} MB: {ours / theirs:.2f}x the time, {our_memory / their_memory:.2f}x the memory"
            )


if __name__ == "__main__":
    main()
