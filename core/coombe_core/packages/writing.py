"""Writing a data package: the same content gives the same bytes."""

from __future__ import annotations

import csv
import hashlib
import io
import json
import zipfile
from collections.abc import Mapping, Sequence
from typing import BinaryIO

from coombe_core.packages.package import Package, Row
from coombe_core.packages.tables import FORMAT, LICENSES, TABLES, Column

LONG_AGO = (1980, 1, 1, 0, 0, 0)
MEDIA_TYPES = {".csv": "text/csv", ".json": "application/json", ".parquet": "application/vnd.apache.parquet"}
DANGEROUS = (
    "=",
    "+",
    "-",
    "@",
    "\t",
    "\r",
    "'",
)  # what makes a spreadsheet take text for a formula, and what says it is none


def write_package(out: BinaryIO, package: Package, readme: str) -> None:
    """Write it as a ZIP file.

    Parameters
    ----------
    out : binary file
    package : Package
    readme : str
        What explains it to somebody who finds it.
    """
    files = {f"tables/{name}.csv": _csv(columns, package.tables.get(name, ())) for name, columns in TABLES.items()}
    files["inputs.json"] = _json({"pairs": list(package.inputs)})
    files |= dict(package.files)
    descriptor = _descriptor(package, files)
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        for path, data in {"datapackage.json": _json(descriptor), "README.md": readme.encode(), **files}.items():
            archive.writestr(zipfile.ZipInfo(path, LONG_AGO), data, zipfile.ZIP_DEFLATED)


def _csv(columns: Sequence[Column], rows: Sequence[Row]) -> bytes:
    out = io.StringIO()
    writer = csv.writer(out)  # lines end as RFC 4180 says, and a lone return in a text is quoted
    writer.writerow([column.name for column in columns])
    writer.writerows([cell(row.get(column.name)) for column in columns] for row in rows)
    return out.getvalue().encode()


def cell(value: object) -> object:
    """A value as a spreadsheet reads it without calculating: text that would be a formula gets an apostrophe first."""
    if value is None:
        return ""
    if isinstance(value, bool):
        return "true" if value else "false"
    if isinstance(value, str) and value.startswith(DANGEROUS):
        return "'" + value
    return repr(value) if isinstance(value, float) else value


def _json(value: object) -> bytes:
    return json.dumps(value, indent=1, sort_keys=True, allow_nan=False).encode()


def _descriptor(package: Package, files: Mapping[str, bytes]) -> dict[str, object]:
    about = package.about
    described: dict[str, object] = {
        "profile": "data-package",
        "coombe_format": FORMAT,
        "name": "coombe-package",
        "title": about.title,
        "created": about.created,
        "core_version": about.core_version,
        "contributors": [{"title": about.made_by, "role": "author"}] if about.made_by else [],
        "resources": [_resource(path, data) for path, data in files.items()],
    }
    chosen = {"name": about.license, "title": LICENSES[about.license]} if about.license else None
    return {key: value for key, value in (described | {"licenses": chosen and [chosen]}).items() if value}


def _resource(path: str, data: bytes) -> dict[str, object]:
    stem, _, suffix = path.rpartition(".")
    name = path.lower().replace("/", "-").replace("_", "-")
    resource: dict[str, object] = {
        "name": name,
        "path": path,
        "bytes": len(data),
        "hash": f"sha256:{hashlib.sha256(data).hexdigest()}",
        "mediatype": MEDIA_TYPES.get(f".{suffix}", "application/octet-stream"),
    }
    table = TABLES.get(stem.removeprefix("tables/")) if suffix == "csv" else None
    if table is None:
        return resource
    fields = [{"name": each.name, "type": each.type, "description": each.description} for each in table]
    described = {"profile": "tabular-data-resource", "format": "csv", "encoding": "utf-8"}
    return resource | described | {"schema": {"fields": fields, "missingValues": [""]}}
