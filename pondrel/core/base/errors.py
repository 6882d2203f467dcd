"""Errors that a user can mend: each is one sentence saying what is wrong and what would be right."""

from __future__ import annotations


class PondrelError(Exception):
    """Base of every error whose text is fit to be shown to a user as it stands."""


class ReadingError(PondrelError):
    """A reading that is no reading: text that is no number, a place or state that the sheet does not have."""


class CaptureError(PondrelError):
    """A file that is no capture, or one that holds no numbers at even times: one sentence with the line that is in the way."""


class FaultError(PondrelError):
    """A fault that the sheet cannot have: no such part, no such mode, a severity out of its domain."""


class SheetError(PondrelError):
    """A sheet with one or more faults of form.

    ``flaws`` is a tuple of ``(path, sentence)``; the path is dotted, as in ``parts.F9.rating``, empty for the whole file.
    """

    def __init__(self, flaws: tuple[tuple[str, str], ...]):
        super().__init__(tuple(flaws))  # args rebuild the error, so it pickles
        self.flaws = tuple(flaws)

    def lines(self, file: str) -> list[str]:
        """One line per flaw, ``FILE: path: sentence``."""
        return [f"{file}: {path}: {text}" if path else f"{file}: {text}" for path, text in self.flaws]

    def __str__(self) -> str:
        return "; ".join(f"{path}: {text}" if path else text for path, text in self.flaws)


class SheetTextError(SheetError):
    """A sheet whose text is no YAML, or beyond what a sheet may be: nothing of it was made, its flaw names the line."""


class MakingError(PondrelError):
    """What somebody gave for a circuit in the making that it cannot be: an answer that is none, a change that would break it."""
