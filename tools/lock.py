"""Writes requirements/*.lock: exact versions with the SHA-256 of every file that pip may choose on the machines that count.

The versions are those of the environment that this runs in, brought up to date first by hand (`pip install -U ...`); what each lock
holds is what the project's dependencies pull in. Nothing of where the files came from is written down.
"""

from __future__ import annotations

import json
import re
import subprocess
import sys
import tempfile
import tomllib
from importlib import metadata
from pathlib import Path
from typing import Any

ROOT = Path(__file__).parents[1]
BUILD = ("setuptools", "wheel")
PYTHONS = ("3.11", "3.12", "3.13")
MACHINES = ("x86_64", "aarch64")
# What a wheel for a machine whose C library is Debian 12's may call itself.
TAGS = (*(f"manylinux_2_{minor}" for minor in range(36, 4, -1)), "manylinux2014", "manylinux2010", "manylinux1")


def _plain(name: str) -> str:
    return re.sub(r"[-_.]+", "-", name).lower()


def _closure(names: list[str]) -> dict[str, str]:
    """Name and version of some installed packages and all that they need here."""
    found: dict[str, str] = {}
    todo = [re.match(r"[A-Za-z0-9._-]+", name)[0] for name in names]  # type: ignore[index]
    while todo:
        name = _plain(todo.pop())
        if name in found:
            continue
        package = metadata.distribution(name)
        found[name] = package.version
        needed = [need for need in package.requires or () if "extra ==" not in need and not _elsewhere(need)]
        todo += [re.match(r"[A-Za-z0-9._-]+", need)[0] for need in needed]  # type: ignore[index]
    return found


def _elsewhere(need: str) -> bool:
    """Whether a need is for other systems only: what is not installed here is not needed here."""
    name = re.match(r"[A-Za-z0-9._-]+", need)[0]  # type: ignore[index]
    try:
        metadata.distribution(name)
    except metadata.PackageNotFoundError:
        return True
    return False


def _hashes(pins: list[str]) -> dict[str, set[str]]:
    """By pin, the digests of the files that pip would choose, on each machine that counts."""
    found: dict[str, set[str]] = {pin: set() for pin in pins}
    for python in PYTHONS:
        for machine in MACHINES:
            for item in _chosen(pins, python, machine):
                pin = f"{_plain(item['metadata']['name'])}=={item['metadata']['version']}"
                found[pin].add(item["download_info"]["archive_info"]["hashes"]["sha256"])
    return found


def _chosen(pins: list[str], python: str, machine: str) -> list[dict[str, Any]]:
    """What pip would install there, without installing it."""
    with tempfile.TemporaryDirectory() as folder:
        report = Path(folder) / "report.json"
        options = ["--dry-run", "--ignore-installed", "--no-deps", "--only-binary=:all:", "--target", folder, "--quiet"]
        where = ["--python-version", python, "--report", str(report), *(f"--platform={tag}_{machine}" for tag in TAGS)]
        done = subprocess.run(
            [sys.executable, "-m", "pip", "install", *options, *where, *pins], check=False, capture_output=True, text=True
        )
        if done.returncode:
            print(f"Python {python} on {machine} is left out: {done.stderr.strip().splitlines()[-1]}", file=sys.stderr)
            return []
        found: list[dict[str, Any]] = json.loads(report.read_text())["install"]
        return found


def _write(name: str, versions: dict[str, str]) -> None:
    pins = [f"{package}=={version}" for package, version in sorted(versions.items())]
    lines = []
    for pin, digests in _hashes(pins).items():
        if not digests:
            sys.exit(f"No file was found for {pin}: is the index within reach?")
        lines.append(" \\\n    ".join([pin, *(f"--hash=sha256:{digest}" for digest in sorted(digests))]))
    (ROOT / "requirements" / name).write_text("\n".join(lines) + "\n")


def main() -> None:
    """Write both locks."""
    project = tomllib.loads((ROOT / "pyproject.toml").read_text())["project"]
    run = _closure([*project["dependencies"], *BUILD])
    test = {name: version for name, version in _closure(project["optional-dependencies"]["test"]).items() if name not in run}
    _write("run.lock", run)
    _write("test.lock", test)


if __name__ == "__main__":
    main()
