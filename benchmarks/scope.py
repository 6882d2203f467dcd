"""The scope beside plain numpy, ratios in one run: measuring ten million samples beside numpy that loads and scans the same array; a data
line of ten million samples read to frames beside one scan of it; and the first picture of a stored capture beside the Bay page.

The line is made here, bit by bit: 500 000 bits a second, 20 samples a bit, with noise.

python -m benchmarks.scope
"""

from __future__ import annotations

import io
import random
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

import numpy as np

from pondrel.core.wave import Capture, Channel, capture_from
from pondrel.core.wave.bits import bits_of
from pondrel.core.wave.bits.crc import CRC15, crc_of_bits
from pondrel.core.wave.measure import measures_json, measures_of
from pondrel.demo.load import load_demo
from pondrel.web import create_app

SAMPLES, ROUNDS, RATE, PER_BIT = 10_000_000, 7, 10e6, 20


def best(*works: Callable[[], object]) -> list[float]:
    """The least seconds of each work, done in turns: what else the machine does meanwhile hits all."""
    found = [float("inf")] * len(works)
    for _ in range(ROUNDS):
        for place, work in enumerate(works):
            began = time.process_time()
            work()
            found[place] = min(found[place], time.process_time() - began)
    return found


def scan(values: np.ndarray) -> tuple[float, float, float]:
    """Least, most and mean."""
    return float(values.min()), float(values.max()), float(values.mean())


def line_of(count: int) -> np.ndarray:
    """Volts between the wires of a busy line."""
    r = random.Random(5)
    bits = [1] * 20
    while len(bits) * PER_BIT < count:
        data = r.randbytes(8)
        head = f"0{r.getrandbits(11):011b}0001000" + "".join(f"{byte:08b}" for byte in data)
        body = [int(c) for c in head]
        whole = [*body, *(int(c) for c in f"{crc_of_bits(body, CRC15):015b}")]
        same, last = 0, -1
        for bit in whole:
            same = same + 1 if bit == last else 1
            bits.append(bit)
            last = bit
            if same == 5:
                last, same = 1 - bit, 1
                bits.append(last)
        bits += [1, 0, *[1] * r.choice((11, 14, 30))]
    volts = 2.0 * (1.0 - np.repeat(np.array(bits[: count // PER_BIT], dtype=float), PER_BIT))
    return volts + np.random.default_rng(1).normal(0.0, 0.03, len(volts))


def main() -> None:
    """Print the ratios."""
    times = np.arange(SAMPLES)
    pulses = np.where((times // 400) % 5 < 2, 12.4, 0.02) + np.random.default_rng(2).normal(0.0, 0.02, SAMPLES)
    with tempfile.TemporaryDirectory() as folder:
        plain, packed = Path(folder) / "a.npy", Path(folder) / "a.npz"
        np.save(plain, pulses)
        np.savez(packed, a=pulses, rate=1e6)

        def measured(values: np.ndarray) -> None:
            own = Capture((Channel("a", "V", values),), 1e-6)
            measures_json(own, measures_of(own, own.channels[0]))

        def from_archive() -> None:
            with packed.open("rb") as stream:
                capture = capture_from(stream)
            measures_json(capture, measures_of(capture, capture.channels[0]))

        mine, archive, theirs = best(lambda: measured(np.load(plain)), from_archive, lambda: scan(np.load(plain)))
        print(
            f"all measurements of {SAMPLES:,} samples: {mine:.3f} s with loading the array, {archive:.3f} s out of an .npz with its check "
            f"sum; numpy loads and scans it in {theirs:.3f} s: {mine / theirs:.2f}x and {archive / theirs:.2f}x"
        )
        line = line_of(SAMPLES)
        bus = Capture((Channel("a", "V", line),), 1.0 / RATE)
        frames = len(bits_of(bus).frames)
        mine, theirs = best(lambda: bits_of(bus), lambda: scan(line))
        print(f"bits of {len(line):,} samples, {frames} frames: {mine:.3f} s; one scan {theirs:.4f} s: {mine / theirs:.1f}x")
        _pictures(Path(folder))


def _pictures(folder: Path) -> None:
    load_demo(folder / "demo")
    app = create_app(folder / "demo")
    app.config["WTF_CSRF_ENABLED"] = False
    client = app.test_client()
    samples = (np.sin(np.arange(SAMPLES) / 5000.0) * 30_000).astype("<i2")
    out = io.BytesIO()
    np.savez(out, a=samples, rate=1e6)
    out.seek(0)
    address = client.post("/scope", data={"capture": (out, "long.npz"), "says": "long"}).headers["Location"]
    while not (state := client.get(f"{address}/state").json)["ended"]:
        time.sleep(0.2)
    address = state["address"]

    def picture() -> None:
        assert client.get(address).status_code == client.get(f"{address}/view?columns=900").status_code == 200

    for _ in range(3):
        picture()
        client.get("/")
    mine, theirs = best(picture, lambda: client.get("/"))
    print(
        f"first picture of a stored capture of {SAMPLES:,} samples, its page and its columns: {mine * 1e3:.1f} ms; the Bay "
        f"{theirs * 1e3:.1f} ms: {mine / theirs:.2f}x"
    )


if __name__ == "__main__":
    main()
