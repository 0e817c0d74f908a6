"""What every study comes to, whatever it asks: sentences, charts and tables of numbers in SI with their intervals."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field

from coombe_core.uncertainty import Value


@dataclass(frozen=True)
class Axis:
    """What a chart or column counts: its label and the kind of quantity, which says its unit on screen."""

    label: str
    kind: str = "plain"
    unit: str = ""


@dataclass(frozen=True)
class Point:
    """A value with its u95 at a place; `run` is where it is from."""

    x: float
    y: float
    u95: float | None = None
    run: int | None = None
    label: str = ""


@dataclass(frozen=True)
class Band:
    """A curve with its 95 % band (n each); a line without one has none."""

    x: Sequence[float]
    y: Sequence[float]
    u95: Sequence[float] = ()


@dataclass(frozen=True)
class Mark:
    """A place on the x axis with its interval, and what is there."""

    x: float
    low: float
    high: float
    label: str


@dataclass(frozen=True)
class ChartSeries:
    """Points, a curve and marks of one name."""

    name: str
    points: Sequence[Point] = ()
    band: Band | None = None
    marks: Sequence[Mark] = ()


@dataclass(frozen=True)
class Chart:
    """One picture. With `names` the x axis has words at 0, 1, 2 …; `falling` has its highest value at the left."""

    title: str
    x: Axis
    y: Axis
    series: Sequence[ChartSeries]
    names: Sequence[str] = ()
    falling: bool = False


Cell = Value | float | str | None


@dataclass(frozen=True)
class Table:
    """One table: its columns, and rows of words, numbers and values with their u95."""

    title: str
    columns: Sequence[Axis]
    rows: Sequence[Sequence[Cell]]


@dataclass(frozen=True)
class Drive:
    """The places of a drive (n each) with the heading there, on a plane too; `start` is the start line's, if any."""

    latitude_deg: Sequence[float]
    longitude_deg: Sequence[float]
    heading_deg: Sequence[float]
    east_m: Sequence[float]
    north_m: Sequence[float]
    start: int | None = None


@dataclass(frozen=True)
class Shown:
    """A study's answer: its sentences, the largest first, what to beware of, its pictures and tables."""

    sentences: Sequence[str]
    charts: Sequence[Chart] = ()
    tables: Sequence[Table] = ()
    cautions: Sequence[str] = field(default_factory=list)
