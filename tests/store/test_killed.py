"""A killed process loses no confirmed reading."""

from __future__ import annotations

from pondrel.store.db import DATABASE, connect
from pondrel.store.entries import entries_of

from ..server import Server, free_port


def test_readings_survive_kill_dash_nine_and_the_job_goes_on(data_folder):
    port = free_port()
    for number, (value, red) in enumerate([("12.41", "la2.feed"), ("3.70", "la2.gnd"), ("3.66", "g3")], 1):
        server = Server(data_folder, port)
        try:
            server.read(4, value, red)
        finally:
            server.kill()
        conn = connect(data_folder / DATABASE)
        assert [e.text("value") for e in entries_of(conn, 4)][number - 1] == value
        conn.close()
    server = Server(data_folder, port)
    try:
        page = server.get("/jobs/4/trace")
    finally:
        server.kill()
    assert "3 standing" in page
    assert "G3" in page
