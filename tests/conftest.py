"""Fixtures shared by all tests."""

from __future__ import annotations

import shutil
from pathlib import Path

import pytest

from pondrel.core.circuit.read.sheet import parse_sheet
from pondrel.core.circuit.sheet import Sheet
from pondrel.core.isolate.predict.workup import Workup
from pondrel.demo.load import SHEETS, load_demo
from pondrel.web import create_app
from pondrel.web.shell.workups import Workups

from .circuits import STEP_LIGHT


@pytest.fixture(scope="session")
def step_light() -> Sheet:
    """One lamp with fuse, wire, plug pin, switch and ground."""
    return parse_sheet(STEP_LIGHT)


@pytest.fixture(scope="session")
def step_light_workup(step_light) -> Workup:
    """The same, prepared once."""
    return Workup(step_light)


@pytest.fixture(scope="session")
def demo_sheets() -> dict[str, Sheet]:
    """The sheets that ship, by file name."""
    return {file.stem: parse_sheet(file.read_text()) for file in sorted(SHEETS.glob("*.yaml"))}


@pytest.fixture(scope="session")
def demo_workups(demo_sheets) -> dict[str, Workup]:
    """The sheets that ship, prepared once."""
    return {name: Workup(sheet) for name, sheet in demo_sheets.items()}


@pytest.fixture(scope="session")
def demo_folder(tmp_path_factory) -> Path:
    """A data folder with the demo depot, to be copied and not touched."""
    folder = tmp_path_factory.mktemp("demo")
    load_demo(folder)
    return folder


SMALL_DEPOT = """
vehicles: {Yard van: {make: Maurevik, model: Carrall, year: "2014"}}
corrections: []
jobs: [{vehicle: Yard van, complaint: Step lights dim, opened_at: "2026-11-20T07:40:00Z", record: []}]
"""


@pytest.fixture
def small_depot(tmp_path: Path, monkeypatch) -> None:
    """A demo of one empty job, for what is about its folder: the whole one works out three conclusions while it is made."""
    path = tmp_path / "depot.yaml"
    path.write_text(SMALL_DEPOT)
    monkeypatch.setattr("pondrel.demo.load.DEPOT", path)


@pytest.fixture
def data_folder(demo_folder: Path, tmp_path: Path) -> Path:
    """A data folder of one's own with the demo depot."""
    return Path(shutil.copytree(demo_folder, tmp_path / "data"))


@pytest.fixture(scope="session")
def prepared() -> Workups:
    """What has been worked out of the demo's sheets: it stays warm from test to test, since it knows nothing of any database."""
    return Workups()


@pytest.fixture
def cold_client(data_folder):
    """A test client over the demo depot, its CSRF check switched off (test_safety.py has it on)."""
    app = create_app(data_folder)
    app.config.update(TESTING=True, WTF_CSRF_ENABLED=False)
    return app.test_client()


@pytest.fixture
def client(cold_client, prepared):
    """The same, with what other tests have worked out; whoever counts or breaks the working out takes the cold one."""
    cold_client.application.extensions["workups"] = prepared
    return cold_client
