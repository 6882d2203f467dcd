"""The real server as a process of its own."""

from __future__ import annotations

import http.cookiejar
import os
import re
import socket
import subprocess
import sys
import time
import urllib.error
import urllib.parse
import urllib.request


def free_port() -> int:
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return probe.getsockname()[1]


class Server:
    """`pondrel serve` over a data folder, up when made; its cookies kept from request to request."""

    def __init__(self, data_folder, port: int | None = None):
        port = port or free_port()
        self.base = f"http://127.0.0.1:{port}"
        env = {**os.environ, "PONDREL_DATA": str(data_folder), "PONDREL_PORT": str(port)}
        self.process = subprocess.Popen(
            [sys.executable, "-m", "pondrel", "serve"], env=env, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL
        )
        self.opener = urllib.request.build_opener(urllib.request.HTTPCookieProcessor(http.cookiejar.CookieJar()))
        for _ in range(300):
            try:
                self.get("/")
                return
            except urllib.error.URLError:
                time.sleep(0.1)
        self.kill()
        raise AssertionError("the server did not start")

    def get(self, path: str) -> str:
        with self.opener.open(self.base + path, timeout=60) as answer:
            return answer.read().decode()

    def read(self, job: int, value: str, red: str = "la2.gnd") -> None:
        token = re.search(r'name="csrf_token" value="([^"]+)"', self.get(f"/jobs/{job}/trace"))[1]
        form = {"csrf_token": token, "state": "open", "instrument": "volts", "red": red, "black": "batt-", "value": value}
        self.opener.open(f"{self.base}/jobs/{job}/readings", urllib.parse.urlencode(form).encode(), timeout=60).read()

    def kill(self) -> None:
        """kill -9: nothing is tidied up."""
        self.process.kill()
        self.process.wait(timeout=20)
