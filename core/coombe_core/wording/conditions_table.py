"""What is doubtful or wrong about pasted conditions."""

from __future__ import annotations

from coombe_core.formats.conditions_table import Code, Remark

SENTENCES: dict[Code, str] = {
    "no run near": "no run within 2 min of {cell}",
    "no run left": "no run is left for it",
    "no number": "{column} is no number: {short!r}",
    "not possible": "{column} {cell} is not possible",
    "share": "{column} {value:g} looks like a share: {percent:g} %?",
    "celsius?": "{column} {value:g} °F is cold for a pack: is it in °C?",
    "fahrenheit?": "{column} {value:g} °C is hot: is it in °F?",
    "two rows for one run": "Two rows go to one run.",
    "counts differ": "{rows:.0f} rows for {runs:.0f} runs: without a column of times they go in order.",
    "shifted": "The rows fit what is known of the runs better moved {way} by one: is a row missing or too many?",
    "charge rises": (
        "the charge rises from {from_percent:g} to {to_percent:g} %: charged in between, or a shifted row?"
    ),
}


def remark(found: Remark) -> str:
    """Say what is doubtful or wrong, and ask what it may be."""
    numbers = found.numbers
    return SENTENCES[found.code].format(
        **numbers,
        column=found.column.rsplit("_", 1)[0].replace("_temp", "").replace("_", " "),
        cell=found.cell,
        short=found.cell[:20],
        percent=100 * numbers.get("value", 0.0),
        way="down" if numbers.get("rows_down", 0) > 0 else "up",
    )
