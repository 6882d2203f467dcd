"""Work that may come to nothing: the page is drawn all the same, with a sentence in the place of what could not be worked out."""

from __future__ import annotations

from collections.abc import Callable
from typing import TypeVar

from flask import current_app
from werkzeug.exceptions import HTTPException

from ...core.base.errors import PondrelError

__all__ = ["attempt"]

Made = TypeVar("Made")

_BROKE = "Pondrel could not work this out: that is a fault of its own, and it has written it down. Nothing that was entered is lost."


def attempt(work: Callable[[], Made]) -> tuple[Made | None, str]:
    """What the work comes to; or None, and why in a sentence. The record stays within reach whatever fails in the reckoning."""
    try:
        return work(), ""
    except HTTPException:
        raise
    except PondrelError as error:
        return None, str(error)
    except Exception:
        current_app.logger.exception("Something could not be worked out")
        return None, _BROKE
