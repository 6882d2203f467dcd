"""A killed process loses no confirmed reading."""

from __future__ import annotations

import http.cookiejar
import os
import re
import signal
import socket
import subprocess
import sys
import time
import urllib.error
import urllib.parse
import urllib.request

from pondrel.store.db import DATABASE, connect
from pondrel.store.readings import readings_of


def free_port() -> int:
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return probe.getsockname()[1]


class Server:
    """The real server as its own process."""

    def __init__(self, data_folder, port: int):
        self.base = f"http://127.0.0.1:{port}"
        env = {**os.environ, "PONDREL_DATA": str(data_folder), "PONDREL_PORT": str(port)}
        self.process = subprocess.Popen(
            [sys.executable, "-m", "pondrel", "serve"], env=env, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL
        )
        self.opener = urllib.request.build_opener(urllib.request.HTTPCookieProcessor(http.cookiejar.CookieJar()))
        for _ in range(150):
            try:
                self.get("/")
                return
            except urllib.error.URLError:
                time.sleep(0.1)
        raise AssertionError("the server did not start")

    def get(self, path: str) -> str:
        with self.opener.open(self.base + path, timeout=60) as answer:
            return answer.read().decode()

    def read(self, job: int, value: str, red: str = "la2.gnd") -> None:
        token = re.search(r'name="csrf_token" value="([^"]+)"', self.get(f"/jobs/{job}/trace"))[1]
        form = {"csrf_token": token, "state": "open", "instrument": "volts", "red": red, "black": "batt-", "value": value}
        self.opener.open(f"{self.base}/jobs/{job}/readings", urllib.parse.urlencode(form).encode(), timeout=60).read()

    def kill(self) -> None:
        os.kill(self.process.pid, signal.SIGKILL)
        self.process.wait(timeout=20)


def test_readings_survive_kill_dash_nine_and_the_job_goes_on(data_folder):
    port = free_port()
    for number, (value, red) in enumerate([("12.41", "la2.feed"), ("3.70", "la2.gnd"), ("3.66", "g3")], 1):
        server = Server(data_folder, port)
        try:
            server.read(4, value, red)
        finally:
            server.kill()
        conn = connect(data_folder / DATABASE)
        assert [r.typed for r in readings_of(conn, 4)][number - 1] == value
        conn.close()
    server = Server(data_folder, port)
    try:
        page = server.get("/jobs/4/trace")
    finally:
        server.kill()
    assert "3 standing" in page
    assert "G3" in page
