"""Reading a data package that somebody else made, with distrust: nothing of it is written anywhere."""

from __future__ import annotations

import csv
import hashlib
import io
import json
import zipfile
import zlib
from collections.abc import Mapping
from dataclasses import dataclass
from pathlib import PurePosixPath
from typing import Any, BinaryIO

from coombe_core.packages.package import About, Package, PackageError
from coombe_core.packages.tables import FORMAT, TABLES, Column

MOST_FILES = 20_000
MOST_BYTES = 4_000_000_000
MOST_RATIO = 200  # of a file's size to that in the archive
SMALL = 1_000_000
# What a damaged archive makes the library raise: RuntimeError where a file is said to be encrypted.
UNREADABLE = (
    *(zipfile.BadZipFile, zipfile.LargeZipFile, zlib.error),
    *(EOFError, OSError, NotImplementedError, RuntimeError),
)


@dataclass(frozen=True)
class Opened:
    """A package as it was read, and the files that are not as its description says, each with why."""

    package: Package
    damaged: Mapping[str, str]


def read_package(source: BinaryIO) -> Opened:
    """Read a package.

    Parameters
    ----------
    source : binary file

    Returns
    -------
    Opened

    Raises
    ------
    PackageError
        Where it is none, is of a newer format, or would do harm.
    """
    try:
        with zipfile.ZipFile(source) as archive:
            refuse_harm(archive)
            return _read(archive)
    except UNREADABLE as error:
        raise PackageError(f"this is no ZIP file that can be read ({error})") from None


def refuse_harm(archive: zipfile.ZipFile, most_files: int = MOST_FILES, most_bytes: int = MOST_BYTES) -> None:
    """Refuse a ZIP file that would do harm, by its table of contents.

    Parameters
    ----------
    archive : ZipFile
    most_files, most_bytes : int
        What it may hold at most.

    Raises
    ------
    PackageError
        Where a path leads out, a file would grow beyond reason, or it holds too much.
    """
    entries = archive.infolist()
    if len(entries) > most_files:
        raise PackageError(f"it has {len(entries)} files; {most_files} are the most")
    for entry in entries:
        path = PurePosixPath(entry.filename.replace("\\", "/"))
        if path.is_absolute() or ".." in path.parts or ":" in entry.filename:
            raise PackageError(f"{entry.filename} leads out of the package")
        if entry.file_size > SMALL and entry.file_size > MOST_RATIO * max(entry.compress_size, 1):
            raise PackageError(f"{entry.filename} would grow to {entry.file_size} bytes, which no log does")
    if sum(entry.file_size for entry in entries) > most_bytes:
        raise PackageError(f"it would take more than {most_bytes // 10**9} GB")


def _read(archive: zipfile.ZipFile) -> Opened:
    described = _described(archive)
    files: dict[str, bytes] = {}
    damaged: dict[str, str] = {}
    for resource in described["resources"]:
        path, stated = str(resource.get("path")), str(resource.get("hash", "")).removeprefix("sha256:")
        try:
            data = archive.read(path)
        except KeyError:
            damaged[path] = "is missing"
            continue
        except UNREADABLE as error:
            damaged[path] = f"can't be read ({error})"
            continue
        files[path] = data
        found = hashlib.sha256(data).hexdigest()
        if found != stated:
            damaged[path] = f"was changed: its hash is {found[:12]}…, stated {stated[:12]}…"
    about = About(
        str(described.get("title", "")), str(described.get("core_version", "")), str(described.get("created", ""))
    )
    tables = {name: _rows(name, files.get(f"tables/{name}.csv"), columns) for name, columns in TABLES.items()}
    inputs = _inputs(files.get("inputs.json"))
    return Opened(Package(about, tables, files, inputs), damaged)


def _described(archive: zipfile.ZipFile) -> dict[str, Any]:
    try:
        described = json.loads(archive.read("datapackage.json"))
    except KeyError:
        raise PackageError("it has no datapackage.json: this is no data package") from None
    except ValueError as error:
        raise PackageError(f"its datapackage.json can't be read ({error})") from None
    if not isinstance(described, dict) or not isinstance(described.get("resources"), list):
        raise PackageError("its datapackage.json names no resources")
    made = str(described.get("coombe_format", ""))
    if made != FORMAT:
        raise PackageError(
            f"it is of the format {made or 'of another program'}, and this is {FORMAT}: use the version that wrote it"
        )
    if not all(isinstance(resource, dict) for resource in described["resources"]):
        raise PackageError("its datapackage.json names resources that are none")
    return described


def _rows(name: str, data: bytes | None, columns: tuple[Column, ...]) -> list[dict[str, Any]]:
    if data is None:
        raise PackageError(f"the table {name} is missing")
    try:
        reader = csv.DictReader(io.StringIO(data.decode("utf-8"), newline=""))
        lacking = [column.name for column in columns if column.name not in (reader.fieldnames or ())]
        if lacking:
            raise PackageError(f"the table {name} lacks the column {lacking[0]}")
        return [
            {column.name: _parsed(row.get(column.name) or "", column, name, line) for column in columns}
            for line, row in enumerate(reader, 2)
        ]
    except (UnicodeDecodeError, csv.Error) as error:
        raise PackageError(f"the table {name} can't be read ({error})") from None


def _parsed(text: str, column: Column, table: str, line: int) -> Any:
    if text == "":
        return "" if column.type == "string" else None
    try:
        match column.type:
            case "number":
                return float(text)
            case "integer":
                return int(text)
            case "boolean":
                return text == "true"
            case _:
                return text.removeprefix("'")
    except ValueError:
        raise PackageError(f"line {line} of the table {table}: {text[:40]!r} is no {column.name}") from None


def _inputs(data: bytes | None) -> list[dict[str, Any]]:
    try:
        pairs = json.loads(data or b"{}").get("pairs", [])
    except (ValueError, AttributeError) as error:
        raise PackageError(f"its inputs.json can't be read ({error})") from None
    return [pair for pair in pairs if isinstance(pair, dict)] if isinstance(pairs, list) else []
