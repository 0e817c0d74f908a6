"""What goes wrong, as a sentence."""

from __future__ import annotations

from collections.abc import Mapping, Sequence


class CoombeError(Exception):
    """A refusal: its text is Coombe's sentence.

    Attributes
    ----------
    status : int
        The HTTP status; 0 where nothing answered.
    code : str
        A word for programs.
    fields : mapping of str to sequence of str
        What is wrong with each field that was sent.
    """

    def __init__(
        self, sentence: str, status: int = 0, code: str = "", fields: Mapping[str, Sequence[str]] | None = None
    ) -> None:
        wrong = "; ".join(f"{name}: {' '.join(said)}" for name, said in (fields or {}).items())
        super().__init__(wrong or sentence)
        self.status, self.code, self.fields = status, code, fields or {}


class NotDoneError(TimeoutError):
    """Uploads that were not timed by the limit."""
