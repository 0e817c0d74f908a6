"""Opening an archive that somebody else made, with distrust."""

from __future__ import annotations

import csv
import hashlib
import io
import json
import zipfile
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from archive.cells import ArchiveError, heading, read
from archive.contents import MODELS, AnyField, Model, columns, table_of
from archive.exporting import FORMAT
from coombe_core.packages.package import PackageError
from coombe_core.packages.reading import UNREADABLE, refuse_harm

MOST_FILES, MOST_BYTES = 500_000, 200_000_000_000
LONGEST_CELL = 50_000_000
PIECE_BYTES = 1 << 20
csv.field_size_limit(LONGEST_CELL)


@dataclass(frozen=True)
class Row:
    """A row of a table as it stands there, by the names of its fields, and where that is."""

    values: dict[str, Any]
    where: str

    @property
    def number(self) -> int:
        """Its number in the archive."""
        return int(self.values["id"])


class Opened:
    """An archive whose files are all as it says. Raises ArchiveError where one is not, OSError where there is none."""

    def __init__(self, path: Path) -> None:
        self._file = path.open("rb")
        try:
            self._archive = zipfile.ZipFile(self._file)
            refuse_harm(self._archive, MOST_FILES, MOST_BYTES)
            self.resources = self._described()
            self._check()
        except PackageError as error:
            self.close()
            raise ArchiveError(str(error)) from None
        except UNREADABLE as error:
            self.close()
            raise ArchiveError(f"this is no ZIP file that can be read ({error})") from None

    def close(self) -> None:
        """Let go of the file."""
        self._file.close()

    def rows(self, model: Model) -> Iterator[Row]:
        """The rows of a table in its order. Raises ArchiveError naming the line that can't be read."""
        name = table_of(model)
        fields = {heading(field): field for field in columns(model)}
        with self._archive.open(f"tables/{name}.csv") as data:
            try:
                reader = csv.DictReader(io.TextIOWrapper(data, "utf-8", newline=""))
                _check_heads(name, set(reader.fieldnames or ()), fields)
                for line, cells in enumerate(reader, 2):
                    where = f"line {line} of the table {name}"
                    if None in cells or None in cells.values():
                        raise ArchiveError(f"{where} has not as many cells as the table has columns")
                    values = {fields[head].attname: read(fields[head], text, where) for head, text in cells.items()}
                    if values["id"] is None:
                        raise ArchiveError(f"{where} has no number")
                    yield Row(values, where)
            except (UnicodeDecodeError, csv.Error) as error:
                raise ArchiveError(f"the table {name} can't be read ({error})") from None

    def bytes_of(self, path: str) -> bytes:
        """A file of it. Raises ArchiveError where there is none."""
        if path not in self.resources:
            raise ArchiveError(f"{path} is missing")
        return self._archive.read(path)

    def _described(self) -> Mapping[str, Mapping[str, Any]]:
        try:
            described = json.loads(self._archive.read("datapackage.json"))
            made = described.get("coombe_format", "of another program")
            if made != FORMAT:
                raise ArchiveError(f"it is of the format {made}, and this is {FORMAT}: use the version that wrote it")
            return {str(resource["path"]): resource for resource in described["resources"]}
        except KeyError:
            raise ArchiveError("it has no datapackage.json that names its files: this is no archive") from None
        except (ValueError, AttributeError, TypeError) as error:
            raise ArchiveError(f"its datapackage.json can't be read ({error})") from None

    def _check(self) -> None:
        for model in MODELS:
            if f"tables/{table_of(model)}.csv" not in self.resources:
                raise ArchiveError(f"the table {table_of(model)} is missing")
        for path, resource in self.resources.items():
            total = hashlib.sha256()
            try:
                with self._archive.open(path) as data:
                    while piece := data.read(PIECE_BYTES):
                        total.update(piece)
            except KeyError:
                raise ArchiveError(f"{path} is missing") from None
            if f"sha256:{total.hexdigest()}" != resource.get("hash"):
                raise ArchiveError(f"{path} was changed: its hash is not what is stated")


def _check_heads(name: str, heads: set[str], fields: Mapping[str, AnyField]) -> None:
    if unknown := heads - set(fields):
        raise ArchiveError(f"the table {name} has a column {min(unknown)}: a newer Coombe wrote it")
    if lacking := [head for head, field in fields.items() if head not in heads and _is_needed(field)]:
        raise ArchiveError(f"the table {name} lacks the column {lacking[0]}")


def _is_needed(field: AnyField) -> bool:
    """Whether a row can't do without a column that an older Coombe may not have written."""
    return (
        field.primary_key or field.is_relation or not (field.null or field.has_default() or field.empty_strings_allowed)
    )
