"""The rooms of the application: every feature registers the ones it has, and the doors it opens from a job's strip of stages.

The base template knows none of them by name: what is registered is shown, in the order of its place, and nothing else.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from flask import Flask, current_app, request, url_for

__all__ = ["Room", "Stop", "add_room", "add_stop", "init_app"]


@dataclass(frozen=True, slots=True)
class Room:
    """A room: what it is called, its endpoint, its ``key``, its ``place`` in the bar from left to right, and the blueprints whose pages
    belong to it. ``does`` says in the list of keys what else can be pressed there."""

    name: str
    endpoint: str
    key: str
    place: int
    blueprints: tuple[str, ...]
    does: str = ""

    @property
    def address(self) -> str:
        """Where it is."""
        return url_for(self.endpoint)

    @property
    def here(self) -> bool:
        """Whether the page that is being answered belongs to it."""
        return request.blueprint in self.blueprints


@dataclass(frozen=True, slots=True)
class Stop:
    """A stage of a job's strip that leads somewhere: its name, and the address for a job's record, empty where there is none yet."""

    stage: str
    address: Callable[[Any], str]


def add_room(app: Flask, room: Room) -> None:
    """Give the bar a room. Raises ValueError where its key is taken."""
    known: list[Room] = app.extensions.setdefault("rooms", [])
    if any(room.key == other.key for other in known):
        raise ValueError(f"The key {room.key} is another room's: {room.name} needs one of its own.")
    known.append(room)
    known.sort(key=lambda one: one.place)


def add_stop(app: Flask, stop: Stop) -> None:
    """Let a stage of the job's strip lead somewhere; of several the one that was added last and has an address."""
    app.extensions.setdefault("stops", {}).setdefault(stop.stage, []).append(stop)


def rooms() -> list[Room]:
    """The rooms that there are."""
    found: list[Room] = current_app.extensions.get("rooms", [])
    return found


def stop_address(stage: str, record: object) -> str:
    """Where a stage of a job's strip leads, empty for nowhere."""
    stops: list[Stop] = current_app.extensions.get("stops", {}).get(stage, [])
    return next((address for stop in reversed(stops) if (address := stop.address(record))), "")


def init_app(app: Flask) -> None:
    """Give the templates the rooms and the stages' addresses."""
    app.jinja_env.globals.update(rooms=rooms, stop_address=stop_address)
