"""Money as the workshop reckons it."""

from __future__ import annotations

import math
import re
from collections.abc import Mapping
from dataclasses import dataclass

from ..base.brief import quoted
from ..base.errors import PondrelError

__all__ = ["HORIZONS", "Rates", "amount_from", "checked_rates"]

HORIZONS = (1.0, 3.0, 5.0)  # years that can be counted over
MOST = 1_000_000.0
_LONGEST = 6
_AMOUNT = re.compile(r"\d{1,7}(?:[.,]\d{1,2})?")


@dataclass(frozen=True, slots=True)
class Rates:
    """The workshop's ``currency``, its rate an ``hourly`` of work, and what a ``day`` off the road costs the customer; ``shipped`` while
    nobody has settled them."""

    currency: str = "€"
    hourly: float = 60.0
    day: float = 0.0
    shipped: bool = True

    def labour(self, minutes: float) -> float:
        """What minutes of work cost."""
        return self.hourly * minutes / 60.0

    def about(self, amount: float) -> str:
        """An amount that was reckoned: no cents, which nobody knows."""
        return f"{_grouped(round(amount))} {self.currency}"

    def exact(self, amount: float) -> str:
        """An amount that is paid."""
        whole, cents = divmod(round(amount * 100), 100)
        return f"{_grouped(whole)}.{cents:02} {self.currency}"


def _grouped(whole: int) -> str:
    return f"{whole:,}".replace(",", "\N{NO-BREAK SPACE}") if whole >= 10_000 else str(whole)


def amount_from(what: str, text: str) -> float | None:
    """An amount as it was typed, None for nothing. Raises PondrelError naming ``what``.

    >>> amount_from("The price", "37,50")
    37.5
    """
    typed = text.strip().replace("\N{NO-BREAK SPACE}", "").replace(" ", "")
    if not typed:
        return None
    if not (typed.isascii() and _AMOUNT.fullmatch(typed)) or not math.isfinite(amount := float(typed.replace(",", "."))) or amount > MOST:
        raise PondrelError(f"{what} must be an amount such as 42 or 37.50, at most {MOST:,.0f}, got {quoted(text.strip())}.")
    return amount


def checked_rates(given: Mapping[str, str]) -> dict[str, str]:
    """The workshop's rates as they are kept, from ``currency``, ``hourly`` and ``day``. Raises PondrelError with one sentence."""
    currency = given["currency"].strip()
    if not currency or len(currency) > _LONGEST or not currency.isprintable() or any(c.isdigit() for c in currency):
        raise PondrelError(f"The currency must be a sign or a short name such as € or CHF, got {quoted(currency)}.")
    hourly = amount_from("The rate an hour", given["hourly"])
    if not hourly:
        raise PondrelError("The rate an hour is missing: write what an hour of work costs, such as 62.")
    return {"currency": currency, "hourly": f"{hourly:g}", "day": f"{amount_from('What a day off the road costs', given['day']) or 0:g}"}
